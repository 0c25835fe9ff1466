using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Record;

/// <summary>Plans how takes that turned up in the audio folder get on the session's list, each on its track.</summary>
public static class TakesPlanner
{
    private const int MostNamed = 4;

    /// <summary>True for a take that waits to be put on the list: on none yet, whole, and no longer growing.</summary>
    public static bool IsWaiting(Take take, IReadOnlySet<string> growing)
    {
        ArgumentNullException.ThrowIfNull(take);
        ArgumentNullException.ThrowIfNull(growing);
        return take.IsOnNoList && !growing.Contains(take.File.Path);
    }

    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="growing">Paths of files that something writes at this moment.</param>
    /// <param name="chosen">Paths of the takes to list; null for all that wait.</param>
    public static Plan Plan(Guid sessionId, SessionInventory inventory, IReadOnlySet<string> growing, IReadOnlySet<string>? chosen = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(growing);
        var takes = TakeFinder.Find(inventory).Where(t => IsWaiting(t, growing) && (chosen?.Contains(t.File.Path) ?? true)).ToList();
        var refusals = new List<Fault>();
        if (inventory.Current is null || inventory.Document is null)
        {
            refusals.Add(inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        else if (takes.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NoTakeWaits));
        }
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Takes,
            SessionId = sessionId,
            Sentence = refusals.Count > 0
                ? "Nothing to add to the session."
                : $"Add {ByteText.Count(takes.Count, "take")}, {ByteText.Of(takes.Sum(t => t.File.Bytes))}, to the session: {Names(takes)}; no sound is changed.",
            WritableRoots = [inventory.Folder],
            Steps = refusals.Count > 0 ? [] : [Write(inventory, takes)],
            Remarks = [.. Remarks(inventory, takes)],
            Refusals = [.. refusals],
        };
    }

    private static ReplaceDocumentStep Write(SessionInventory inventory, List<Take> takes)
    {
        var current = inventory.Current!;
        var bytes = ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes);
        var document = DocumentFormats.Read<ISessionNotes>(current.Path, bytes);
        foreach (var track in takes.Where(t => t.Evidence == TakeEvidence.Ixml).Select(t => t.Track!).Except(document.Tracks, StringComparer.OrdinalIgnoreCase))
        {
            document.AddTrack(track);
        }
        foreach (var take in takes)
        {
            var header = take.File.Header;
            document.List(
                MediaUrl.From(take.File.Path, Path.GetDirectoryName(current.Path)!),
                header?.LengthSamples,
                header?.SampleRate ?? 1,
                take.Evidence == TakeEvidence.None ? null : new TakeLabel(take.Track, take.Number, take.Pass));
        }
        return new ReplaceDocumentStep(current.Path, $"{ByteText.Count(takes.Count, "take")} added to the session", document.ToBytes(), ByteIdentity.Of(bytes));
    }

    private static string Names(List<Take> takes)
    {
        var names = takes.Take(MostNamed).Select(t => Path.GetFileNameWithoutExtension(t.File.Name));
        return string.Join(", ", names) + (takes.Count > MostNamed ? $" and {takes.Count - MostNamed} more" : "");
    }

    private static IEnumerable<Fault> Remarks(SessionInventory inventory, List<Take> takes)
    {
        foreach (var track in takes.Where(t => t.Evidence == TakeEvidence.Ixml).Select(t => t.Track!).Except(inventory.Document?.Tracks ?? [], StringComparer.OrdinalIgnoreCase))
        {
            yield return new Fault(FaultCode.TrackAdded) { Name = track };
        }
        foreach (var take in takes)
        {
            if (take.Evidence == TakeEvidence.None)
            {
                yield return new Fault(FaultCode.NoTrackFits) { Name = take.File.Name };
            }
            if (inventory.Document?.Settings is { } settings && take.File.Header is { } header && header.SampleRate != settings.SampleRate)
            {
                yield return new Fault(FaultCode.RateDiffers) { Name = take.File.Name, Count = header.SampleRate, Expected = settings.SampleRate };
            }
        }
    }
}
