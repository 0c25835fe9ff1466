using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.SetUp;

/// <summary>Plans other settings for one session. Sound that is there already stays as it is.</summary>
public static class SettingsPlanner
{
    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="settings">Its settings from then on.</param>
    /// <param name="newTracks">Names of tracks to add.</param>
    public static Plan Plan(Guid sessionId, SessionInventory inventory, SessionSettings settings, IReadOnlyList<string> newTracks)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(settings);
        ArgumentNullException.ThrowIfNull(newTracks);
        var before = inventory.Document?.Settings;
        var refusals = new List<Fault>();
        if (inventory.Current is null || inventory.Document is null)
        {
            refusals.Add(inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        else if (before == settings && newTracks.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.SameSettings));
        }
        else if (newTracks.Count > 0 && !inventory.Document.TakesTracks)
        {
            refusals.Add(new Fault(FaultCode.SeveralTimelines));
        }
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Settings,
            SessionId = sessionId,
            Sentence = $"{(before == settings ? "" : "Change this session's settings")}{(before != settings && newTracks.Count > 0 ? " and add " : newTracks.Count > 0 ? "Add " : "")}"
                + $"{(newTracks.Count > 0 ? ByteText.Count(newTracks.Count, "track") : "")}. No audio and no other session changes.",
            WritableRoots = [inventory.Folder],
            Steps = refusals.Count > 0 ? [] : [Write(inventory, settings, newTracks)],
            Remarks = [.. Remarks(inventory, before, settings)],
            Refusals = [.. refusals],
        };
    }

    private static ReplaceDocumentStep Write(SessionInventory inventory, SessionSettings settings, IReadOnlyList<string> newTracks)
    {
        var bytes = ReadableFile.ReadAll(inventory.Current!.Path, DocumentFormats.MostBytes);
        var document = DocumentFormats.Read<ISessionNotes>(inventory.Current.Path, bytes);
        document.Change(settings);
        foreach (var track in newTracks)
        {
            document.AddTrack(track);
        }
        return new ReplaceDocumentStep(inventory.Current.Path, "its settings", document.ToBytes(), ByteIdentity.Of(bytes));
    }

    private static IEnumerable<Fault> Remarks(SessionInventory inventory, SessionSettings? before, SessionSettings settings)
    {
        var otherRate = inventory.Files.Count(f => f.Header is { } header && header.SampleRate != settings.SampleRate);
        if (before is not null && before.SampleRate != settings.SampleRate && otherRate > 0)
        {
            yield return new Fault(FaultCode.RateOfFilesDiffers) { Number = otherRate, Count = before.SampleRate, Expected = settings.SampleRate };
        }
    }
}
