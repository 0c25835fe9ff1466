using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Record;

/// <summary>A take that is not on its mirror as it should be.</summary>
/// <param name="Take">Absolute path of the take in the session.</param>
/// <param name="Mirror">Absolute path that its mirror should have.</param>
public sealed record MirrorGap(string Take, string Mirror);

/// <summary>Plans how takes get to the mirror that was away, or failed, while they were recorded.</summary>
public static class MirrorPlanner
{
    /// <summary>Folder on a shelf for mirrored takes, a folder for each session below it, out of every session's sight.</summary>
    public const string Folder = "Mirrored takes";

    /// <summary>Where the mirror of a session's takes stands.</summary>
    public static string FolderFor(Shelf mirror, string sessionFolder)
    {
        ArgumentNullException.ThrowIfNull(mirror);
        return Path.Combine(mirror.Root, Folder, Path.GetFileName(sessionFolder));
    }

    /// <summary>Makes the plan. Half a take that reached the mirror is kept there under another name.</summary>
    public static Plan Plan(Guid sessionId, Shelf mirror, IReadOnlyList<MirrorGap> gaps)
    {
        ArgumentNullException.ThrowIfNull(mirror);
        ArgumentNullException.ThrowIfNull(gaps);
        var refusals = new List<Fault>();
        if (!mirror.IsConnected)
        {
            refusals.Add(new Fault(FaultCode.ShelfAway) { Name = mirror.Name });
        }
        var open = gaps.Where(g => File.Exists(g.Take)).ToList();
        if (open.Count == 0)
        {
            refusals.Add(new Fault(FaultCode.NothingMissingOnMirror));
        }
        var steps = refusals.Count > 0 ? [] : Steps(open, mirror).ToList();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Mirror,
            SessionId = sessionId,
            Sentence = $"Copy {ByteText.Count(open.Count, "take")}, {ByteText.Of(steps.Sum(s => s.WritesBytes))}, to the mirror on '{mirror.Name}'; the session stays as it is.",
            WritableRoots = [mirror.Root],
            Steps = [.. steps],
            Remarks = [.. gaps.Where(g => !File.Exists(g.Take)).Select(g => new Fault(FaultCode.TakeGone) { Path = g.Take })],
            Refusals = [.. refusals],
        };
    }

    private static IEnumerable<PlanStep> Steps(List<MirrorGap> gaps, Shelf mirror)
    {
        foreach (var step in gaps.Select(g => Path.GetDirectoryName(g.Mirror)!).Distinct().SelectMany(f => MissingFolders.Steps(f, mirror.Root, "for mirrored takes")).Distinct())
        {
            yield return step;
        }
        foreach (var gap in gaps)
        {
            if (File.Exists(gap.Mirror))
            {
                var folder = Path.GetDirectoryName(gap.Mirror)!;
                var aside = FreeNames.In(folder).Claim($"{Path.GetFileNameWithoutExtension(gap.Mirror)} cut off{Path.GetExtension(gap.Mirror)}");
                yield return new MoveFileStep(Path.Combine(folder, aside), "what reached the mirror before it went away", gap.Mirror, FileState.Of(gap.Mirror));
            }
        }
        foreach (var gap in gaps)
        {
            yield return MakeFileStep.Copy(gap.Mirror, "is not whole on the mirror", gap.Take, FileState.Of(gap.Take));
        }
    }
}
