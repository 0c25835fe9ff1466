using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>What a new session is to be.</summary>
/// <param name="SessionId">Its identity.</param>
/// <param name="Name">Name of its folder and its document.</param>
/// <param name="Shelf">The shelf it goes on.</param>
/// <param name="ParentPath">Folder on the shelf under which its own folder is made; empty for the top folder.</param>
/// <param name="Settings">Rate, depth, tempo and time signature.</param>
/// <param name="Layout">Its sub-folders.</param>
/// <param name="Tracks">Names of its first tracks.</param>
public sealed record SetUpRequest(
    Guid SessionId,
    string Name,
    Shelf Shelf,
    string ParentPath,
    SessionSettings Settings,
    SessionLayout Layout,
    IReadOnlyList<string> Tracks);

/// <summary>Plans the folder and the document of a new session.</summary>
public static class SetUpPlanner
{
    /// <summary>Makes the plan. Nothing is changed; what stands in the way is among the refusals.</summary>
    /// <exception cref="PathNotOnShelfException">The parent folder is not on the shelf.</exception>
    public static Plan Plan(SetUpRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var name = request.Name.Trim();
        var refusals = new List<string>();
        var warnings = new List<string>();
        if (!request.Shelf.IsConnected)
        {
            refusals.Add($"The shelf '{request.Shelf.Name}' is away.");
        }
        var parent = ShelfPath.Resolve(request.Shelf, request.ParentPath);
        if (request.Shelf.IsConnected && !Directory.Exists(parent))
        {
            refusals.Add($"There is no folder '{request.ParentPath}' on the shelf '{request.Shelf.Name}'.");
        }
        CheckName(name, parent, refusals);
        refusals.AddRange(request.Layout.All.SelectMany(FolderProblems).Distinct());
        if (SessionAbove(parent, request.Shelf.Root) is { } above)
        {
            warnings.Add($"The new folder would stand inside the session '{Path.GetFileName(above)}'. Sessions that share a folder damage each other when one is cleaned.");
        }
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.SetUp,
            SessionId = request.SessionId,
            Sentence = $"Make the session folder '{name}' with {ByteText.Count(request.Layout.All.Count(), "sub-folder")} and an empty document.",
            WritableRoots = [parent],
            Steps = refusals.Count > 0 ? [] : [.. Steps(request, name, parent)],
            Warnings = [.. warnings],
            Refusals = [.. refusals],
        };
    }

    private static IEnumerable<PlanStep> Steps(SetUpRequest request, string name, string parent)
    {
        var folder = Path.Combine(parent, name);
        yield return new MakeFolderStep(folder, "the session folder");
        var made = new HashSet<string>(StringComparer.Ordinal);
        foreach (var sub in request.Layout.All)
        {
            var path = folder;
            foreach (var part in sub.Split('/'))
            {
                path = Path.Combine(path, part);
                if (made.Add(path))
                {
                    yield return new MakeFolderStep(path, Purpose(request.Layout, sub));
                }
            }
        }
        var document = SessionDocument.Create(request.SessionId, name, request.Settings, request.Layout, request.Tracks);
        yield return new WriteDocumentStep(Path.Combine(folder, name + SessionDocument.Extension), "the session document", document.ToUtf8(), null);
    }

    private static string Purpose(SessionLayout layout, string folder) =>
        folder == layout.Audio ? "takes and samples"
        : folder == layout.Bounces ? "finished mixes and prints"
        : folder == layout.OlderDocuments ? "documents from earlier days"
        : folder == layout.WaveformCache ? "waveform caches, out of sight"
        : "what you add by hand";

    private static void CheckName(string name, string parent, List<string> refusals)
    {
        var problems = PortableName.Problems(name);
        if (problems.Count > 0)
        {
            refusals.AddRange(problems);
            refusals.Add($"'{PortableName.Suggest(name)}' would do.");
            return;
        }
        if (PortableName.Problems(name + SessionDocument.Extension).Count > 0)
        {
            refusals.Add("The name is too long for the document that is named after it.");
        }
        if (!Directory.Exists(parent))
        {
            return;
        }
        var neighbours = Directory.EnumerateFileSystemEntries(parent).Select(e => Path.GetFileName(e)).ToList();
        var clash = neighbours.Find(n => PortableName.ClashKey(n) == PortableName.ClashKey(name));
        if (clash is not null)
        {
            var free = PortableName.Free(name, neighbours.Select(PortableName.ClashKey).ToHashSet());
            refusals.Add(clash == name
                ? $"There is a '{name}' in this place already. '{free}' is free."
                : $"'{clash}' is in this place already, and other systems take the two names for one. '{free}' is free.");
        }
    }

    private static IEnumerable<string> FolderProblems(string folder)
    {
        foreach (var part in folder.Split('/'))
        {
            foreach (var problem in PortableName.Problems(part))
            {
                yield return $"The sub-folder '{folder}': {problem}";
            }
        }
    }

    /// <summary>The session folder that a folder lies in, or null.</summary>
    private static string? SessionAbove(string folder, string shelfRoot)
    {
        for (var at = folder; at is not null && ShelfPath.IsWithin(at, shelfRoot) && at != shelfRoot; at = Path.GetDirectoryName(at))
        {
            if (Directory.Exists(at) && SessionFolder.Documents(at).Count > 0)
            {
                return at;
            }
        }
        return null;
    }
}
