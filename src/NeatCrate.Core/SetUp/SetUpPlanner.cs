using NeatCrate.Core.Documents;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.SetUp;

/// <summary>What a new session is to be.</summary>
/// <param name="SessionId">Its identity.</param>
/// <param name="Name">Name of its folder and its document.</param>
/// <param name="Shelf">The shelf it goes on.</param>
/// <param name="ParentPath">Folder on the shelf under which its own folder is made; empty for the top folder.</param>
/// <param name="Settings">Rate, depth, tempo and time signature.</param>
/// <param name="Layout">Its sub-folders.</param>
/// <param name="Tracks">Names of its first tracks.</param>
/// <param name="KnownSessions">Folders of all known sessions, on whatever shelf.</param>
public sealed record SetUpRequest(
    Guid SessionId,
    string Name,
    Shelf Shelf,
    string ParentPath,
    SessionSettings Settings,
    SessionLayout Layout,
    IReadOnlyList<string> Tracks,
    IReadOnlyList<string> KnownSessions);

/// <summary>Plans the folder and the document of a new session.</summary>
public static class SetUpPlanner
{
    /// <summary>Makes the plan. Nothing is changed; what stands in the way is among the refusals.</summary>
    /// <exception cref="PathNotOnShelfException">The parent folder is not on the shelf.</exception>
    public static Plan Plan(SetUpRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var name = request.Name.Trim();
        var refusals = new List<Fault>();
        if (!request.Shelf.IsConnected)
        {
            refusals.Add(new Fault(FaultCode.ShelfAway) { Name = request.Shelf.Name });
        }
        var parent = ShelfPath.Resolve(request.Shelf, request.ParentPath);
        if (request.Shelf.IsConnected && !Directory.Exists(parent))
        {
            refusals.Add(new Fault(FaultCode.NoSuchFolder) { Path = request.ParentPath, Name = request.Shelf.Name });
        }
        var named = NameChecks.Check(name, parent, request.KnownSessions, request.Layout);
        refusals.AddRange(named.Checks.Where(c => c.Blocks).Select(c => new Fault(FaultCode.NameUnusable) { Name = name, Other = named.Fix, Reasons = [c.Fault] }));
        refusals.AddRange(request.Layout.All.SelectMany(FolderProblems).Concat(FolderClashes(request.Layout)).Distinct());
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.SetUp,
            SessionId = request.SessionId,
            Sentence = $"Make the session folder '{name}' with {ByteText.Count(request.Layout.All.Count(), "sub-folder")} and an empty document.",
            WritableRoots = [parent],
            Steps = refusals.Count > 0 ? [] : [.. Steps(request, name, parent)],
            Remarks = [.. PlaceRemarks(request, parent), .. named.Checks.Where(c => !c.Blocks).Select(c => c.Fault with { Other = c.Fault.Other ?? named.Fix })],
            Refusals = [.. refusals],
        };
    }

    /// <summary>Names in a place as they sort, those next to the new one: up to <paramref name="most"/> before it and after it.</summary>
    public static (IReadOnlyList<string> Before, IReadOnlyList<string> After) Neighbours(string name, string parent, int most)
    {
        if (!Directory.Exists(parent))
        {
            return ([], []);
        }
        var all = Directory.EnumerateDirectories(parent).Select(d => Path.GetFileName(d)).Where(n => n[0] != '.' && n != name)
            .Order(StringComparer.OrdinalIgnoreCase).ToList();
        var at = all.Count(n => StringComparer.OrdinalIgnoreCase.Compare(n, name) < 0);
        return (all[Math.Max(0, at - most)..at], all[at..Math.Min(all.Count, at + most)]);
    }

    private static IEnumerable<Fault> PlaceRemarks(SetUpRequest request, string parent)
    {
        if (SessionAbove(parent, request.Shelf.Root) is { } above)
        {
            yield return new Fault(above == parent ? FaultCode.ParentHoldsSession : FaultCode.ParentInSession) { Path = above };
        }
        if (request.Shelf.Kind == ShelfKind.Removable)
        {
            yield return new Fault(FaultCode.DriveCanLeave) { Name = request.Shelf.Name };
        }
        var budget = RecordingBudget.Of(
            request.Tracks.Count, request.Settings.SampleRate, request.Settings.BitDepth, request.Settings.ExpectedMinutes * 60, request.Shelf.FreeBytes ?? 0);
        if (request.Shelf.FreeBytes is { } free && budget.ExpectedBytes * ExpectedPasses > free)
        {
            yield return new Fault(FaultCode.DriveNearlyFull) { Free = free, Bytes = budget.ExpectedBytes * ExpectedPasses, Count = ExpectedPasses };
        }
    }

    // A song is seldom caught at once.
    private const int ExpectedPasses = 10;

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
        var fileName = name + SessionFolder.DocumentExtension;
        yield return MakeFileStep.Write(Path.Combine(folder, fileName), "the session document", OpenTimeline.New(request.SessionId, name, request.Settings, request.Layout, request.Tracks));
        yield return MakeFileStep.Write(SessionCard.PathIn(folder), "states which document is current", SessionCard.Stating(folder, fileName));
    }

    private static string Purpose(SessionLayout layout, string folder) =>
        folder == layout.Audio ? "takes and samples"
        : folder == layout.Bounces ? "finished mixes and prints"
        : folder == layout.OlderDocuments ? "documents from earlier days"
        : folder == layout.WaveformCache ? "waveform caches, out of sight"
        : "what you add by hand";

    private static IEnumerable<Fault> FolderProblems(string folder)
    {
        foreach (var part in folder.Split('/'))
        {
            foreach (var problem in PortableName.Problems(part))
            {
                yield return new Fault(FaultCode.SubfolderUnusable) { Name = folder, Reasons = [problem] };
            }
        }
    }

    private static IEnumerable<Fault> FolderClashes(SessionLayout layout) => layout.All.GroupBy(PortableName.ClashKey).Where(g => g.Count() > 1)
        .Select(g => new Fault(FaultCode.SubfoldersClash) { Names = [.. g.Distinct()] });

    /// <summary>The session folder that a folder is or lies in, or null.</summary>
    private static string? SessionAbove(string folder, string shelfRoot)
    {
        for (var at = folder; at is not null && ShelfPath.IsWithin(at, shelfRoot); at = Path.GetDirectoryName(at))
        {
            if (Directory.Exists(at) && SessionFolder.Documents(at).Count > 0)
            {
                return at;
            }
        }
        return null;
    }
}
