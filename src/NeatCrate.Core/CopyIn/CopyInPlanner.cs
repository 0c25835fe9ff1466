using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.CopyIn;

/// <summary>Plans how files that stand outside come into the session folder, and how the document points at them there.</summary>
public static class CopyInPlanner
{
    /// <summary>Makes the plan. Nothing is changed; files of equal size are read to tell whether they are the same.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="chosen">Paths of the outside files to copy in; null for all.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static Plan Plan(
        Guid sessionId, SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlySet<string>? chosen = null, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var refusals = new List<string>();
        var outside = inventory.Standing(Standing.Outside).Where(f => chosen?.Contains(f.Path) ?? true).ToList();
        if (inventory.Document is null || inventory.Current is null)
        {
            refusals.Add(inventory.Current?.Problem ?? "The session has no document that could be pointed at the copies.");
        }
        else if (outside.Count == 0)
        {
            refusals.Add("No chosen file stands outside the session folder.");
        }
        if (refusals.Count > 0)
        {
            return Make(sessionId, inventory, "Nothing to copy in.", [], [], refusals);
        }
        var audio = Path.Combine(inventory.Folder, inventory.Layout.Audio);
        var arrivals = Arrivals(inventory, outside, audio, cancel);
        var steps = new List<PlanStep>();
        if (arrivals.Values.Any(a => a.Copy))
        {
            steps.AddRange(MissingFolders.Steps(audio, inventory.Folder, "takes and samples"));
        }
        steps.AddRange(outside.Where(f => arrivals[f.Path].Copy).Select(f => Copy(f, arrivals[f.Path].Path)));
        steps.Add(Repoint(inventory, shelves, arrivals));
        return Make(sessionId, inventory, Sentence(outside, arrivals), steps, Warnings(inventory, outside, arrivals), refusals);
    }

    /// <summary>Where an outside file will be in the session, and whether it has to be copied there.</summary>
    private readonly record struct Arrival(string Path, bool Copy);

    private static Dictionary<string, Arrival> Arrivals(
        SessionInventory inventory, List<InventoryFile> outside, string audio, CancellationToken cancel)
    {
        var names = FreeNames.In(audio);
        var known = inventory.Standing(Standing.Inside).Select(f => (f.Path, f.Bytes)).ToList();
        var identities = new Dictionary<string, ByteIdentity>(StringComparer.Ordinal);
        ByteIdentity Identity(string path)
        {
            if (!identities.TryGetValue(path, out var identity))
            {
                identities[path] = identity = ByteIdentity.OfFile(path, cancel: cancel);
            }
            return identity;
        }
        var arrivals = new Dictionary<string, Arrival>(StringComparer.Ordinal);
        // For what is to be copied, the bytes are compared through the original, since the copy is not there yet.
        var sources = new List<(string Source, long Bytes, string Inside)>(known.Select(k => (k.Path, k.Bytes, k.Path)));
        foreach (var file in outside)
        {
            var same = sources.Find(s => s.Bytes == file.Bytes && Identity(s.Source) == Identity(file.Path));
            if (same.Inside is not null)
            {
                arrivals[file.Path] = new Arrival(same.Inside, false);
                continue;
            }
            var destination = Path.Combine(audio, names.Take(file.Name));
            arrivals[file.Path] = new Arrival(destination, true);
            sources.Add((file.Path, file.Bytes, destination));
        }
        return arrivals;
    }

    private static CopyFileStep Copy(InventoryFile file, string destination)
    {
        var source = ShelfPath.Real(file.Path);
        var renamed = Path.GetFileName(destination) == file.Name ? "" : $", as '{Path.GetFileName(destination)}'";
        return new CopyFileStep(destination, $"stands outside, on {file.ShelfName ?? "no shelf"}{renamed}", source, FileState.Of(source));
    }

    private static WriteDocumentStep Repoint(SessionInventory inventory, IReadOnlyList<Shelf> shelves, Dictionary<string, Arrival> arrivals)
    {
        var current = inventory.Current!;
        // Read anew, so that the inventory's own document stays what it was when it was taken.
        var bytes = File.ReadAllBytes(current.Path);
        var document = SessionDocument.Parse(bytes);
        var documentFolder = Path.GetDirectoryName(current.Path)!;
        var count = document.Repoint(url =>
            arrivals.TryGetValue(ReferencedPath.Of(url, current, inventory.Folder, shelves), out var arrival)
                ? MediaUrl.From(arrival.Path, documentFolder)
                : null);
        return new WriteDocumentStep(
            current.Path, $"{ByteText.Count(count, "reference")} pointed at the copies", document.ToUtf8(), ByteIdentity.Of(bytes));
    }

    private static string Sentence(List<InventoryFile> outside, Dictionary<string, Arrival> arrivals)
    {
        var copies = outside.Where(f => arrivals[f.Path].Copy).ToList();
        var reused = outside.Count - copies.Count;
        var places = copies.Select(f => f.ShelfId).Distinct().Count();
        var copied = copies.Count == 0
            ? "Copy nothing"
            : $"Copy {ByteText.Count(copies.Count, "file")}, {ByteText.Of(copies.Sum(f => f.Bytes))}, from {ByteText.Count(places, "shelf")}".Replace("shelfs", "shelves", StringComparison.Ordinal);
        var used = reused == 0 ? "" : $"; {ByteText.Count(reused, "file")} already inside used instead of a copy";
        return $"{copied}{used}; document re-pointed; originals untouched.";
    }

    private static IEnumerable<string> Warnings(SessionInventory inventory, List<InventoryFile> outside, Dictionary<string, Arrival> arrivals)
    {
        foreach (var file in outside)
        {
            if (inventory.Document!.Settings is { } settings && file.Header is { } header && header.SampleRate != settings.SampleRate)
            {
                yield return $"'{file.Name}' is at {header.SampleRate} Hz, the session at {settings.SampleRate} Hz: read at the session's rate it sounds "
                    + Varispeed.Describe(header.SampleRate, settings.SampleRate) + ". It is copied as it is.";
            }
            if (arrivals[file.Path].Copy && Path.GetFileName(arrivals[file.Path].Path) != file.Name)
            {
                yield return $"'{file.Name}' comes in as '{Path.GetFileName(arrivals[file.Path].Path)}': "
                    + (PortableName.Problems(file.Name) is [var problem, ..] ? problem : "another file has its name.");
            }
        }
    }

    private static Plan Make(
        Guid sessionId, SessionInventory inventory, string sentence, IEnumerable<PlanStep> steps, IEnumerable<string> warnings, List<string> refusals) => new()
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.CopyIn,
            SessionId = sessionId,
            Sentence = sentence,
            WritableRoots = [inventory.Folder],
            Steps = [.. steps],
            Warnings = [.. warnings],
            Refusals = [.. refusals],
        };
}
