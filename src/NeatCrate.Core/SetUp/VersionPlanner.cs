using System.Globalization;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.SetUp;

/// <summary>How the new version of a document is named.</summary>
public enum VersionNaming
{
    /// <summary>Under today's date, so that names sort by time and a day is the most that can be lost.</summary>
    Today,

    /// <summary>Under the next version number.</summary>
    NextNumber,
}

/// <summary>Plans the start of a new version: the current document again under a new name, the older ones into the archive by choice.</summary>
public static class VersionPlanner
{
    private const int MostNamed = 5;

    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="naming">How the new version is named.</param>
    /// <param name="archiveOlder">Whether the documents that are older from then on move to the folder for them.</param>
    /// <param name="today">The local date.</param>
    /// <param name="isLeftOut">True for an outside file that somebody chose to leave outside; null when nobody chose.</param>
    public static Plan Plan(
        Guid sessionId, SessionInventory inventory, VersionNaming naming, bool archiveOlder, DateOnly today, Func<InventoryFile, bool>? isLeftOut = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var refusals = new List<string>();
        var steps = new List<PlanStep>();
        var name = "";
        if (inventory.Current is null || inventory.Document is null)
        {
            refusals.Add(inventory.Current?.Problem ?? "The session has no document to start a new version from.");
        }
        else
        {
            name = NewName(Path.GetFileNameWithoutExtension(inventory.Current.Path), naming, today);
            var destination = Path.Combine(inventory.Folder, name + SessionDocument.Extension);
            if (Path.Exists(destination))
            {
                refusals.Add($"'{name}' is there already; this version was started before.");
            }
            else
            {
                steps.AddRange(archiveOlder ? Archive(inventory) : []);
                steps.Add(NewDocument(inventory.Current.Path, destination, name));
            }
        }
        var archived = steps.OfType<MoveFileStep>().Count();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Version,
            SessionId = sessionId,
            Sentence = $"Start '{name}' as the current document"
                + (archived > 0 ? $"; {ByteText.Count(archived, "older document")} {(archived == 1 ? "goes" : "go")} to '{inventory.Layout.OlderDocuments}'" : "") + "; no sound is changed.",
            WritableRoots = [inventory.Folder],
            Steps = [.. steps],
            Warnings = [.. OutsideWarning(inventory, isLeftOut)],
            Refusals = [.. refusals],
        };
    }

    /// <summary>A new version is a moment to think of what would be silent one day: the files by name.</summary>
    private static IEnumerable<string> OutsideWarning(SessionInventory inventory, Func<InventoryFile, bool>? isLeftOut)
    {
        var outside = inventory.Standing(Standing.Outside).Where(f => f.Use is FileUse.Placed or FileUse.Listed && !(isLeftOut?.Invoke(f) ?? false)).ToList();
        if (outside.Count > 0)
        {
            yield return $"{(outside.Count == 1 ? "One file stands" : $"{outside.Count} files stand")} outside the session, and the new version points there too: "
                + string.Join(", ", outside.Take(MostNamed).Select(f => $"'{f.Name}'")) + (outside.Count > MostNamed ? $" and {outside.Count - MostNamed} more." : ".");
        }
    }

    /// <summary>The name of the version after a document: another date in front, or the next number behind.</summary>
    public static string NewName(string name, VersionNaming naming, DateOnly today)
    {
        if (naming == VersionNaming.Today)
        {
            return today.ToString("yyMMdd", CultureInfo.InvariantCulture) + " " + SessionName.DateInFront().Replace(name, "");
        }
        var match = SessionName.NumberBehind().Match(name);
        return match.Success
            ? string.Create(CultureInfo.InvariantCulture, $"{name[..match.Index]} v{int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture) + 1}")
            : name + " v2";
    }

    private static IEnumerable<PlanStep> Archive(SessionInventory inventory)
    {
        var folder = Path.Combine(inventory.Folder, inventory.Layout.OlderDocuments);
        foreach (var step in MissingFolders.Steps(folder, inventory.Folder, "documents from earlier days"))
        {
            yield return step;
        }
        var names = FreeNames.In(folder);
        foreach (var document in inventory.Documents.Where(d => Path.GetDirectoryName(d.Path) == inventory.Folder && d.Identity != default))
        {
            yield return new MoveFileStep(Path.Combine(folder, names.Take(Path.GetFileName(document.Path))), "older from now on", document.Path, FileState.Of(document.Path));
        }
    }

    private static WriteDocumentStep NewDocument(string current, string destination, string name)
    {
        var document = SessionDocument.ReadFile(current);
        document.Rename(name);
        return new WriteDocumentStep(destination, "the current document from now on", document.ToUtf8(), null);
    }
}
