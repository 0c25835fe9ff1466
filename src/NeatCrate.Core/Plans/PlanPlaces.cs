using System.Collections.Immutable;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Plans;

/// <summary>Holds a plan to the folders that it was made for: links and drives included, from planning to recovery.</summary>
public static class PlanPlaces
{
    /// <summary>The plan with its roots, and the folders of its destinations, written down as they are now.</summary>
    public static Plan Held(Plan plan, IDurableFiles files)
    {
        ArgumentNullException.ThrowIfNull(plan);
        ArgumentNullException.ThrowIfNull(files);
        if (plan.Held.Length > 0)
        {
            return plan;
        }
        var roots = plan.WritableRoots.Distinct().Select(r => At(r, true, files));
        var places = plan.Steps.SelectMany(s => s.Changes).Select(p => Path.GetDirectoryName(p)!).Distinct().Where(p => !plan.WritableRoots.Contains(p))
            .Where(p => files.Look(p) is { Kind: EntryKind.Folder }).Select(p => At(p, false, files));
        return plan with { Held = [.. roots, .. places] };
    }

    /// <summary>The plan with the times that its folders have now, where it keeps them.</summary>
    internal static Plan Timed(Plan plan, IDurableFiles files) =>
        plan.KeepsFolderTimes ? plan with { Held = [.. plan.Held.Select(h => h with { Time = files.FolderTime(h.Path) })] } : plan;

    /// <summary>Gives the folders that a plan made what they are to have, and those of a plan that keeps their times these back. One that is gone has none.</summary>
    internal static void GiveTimes(Plan plan, IDurableFiles files)
    {
        foreach (var made in plan.Steps.OfType<MakeFolderStep>().Reverse())
        {
            made.Finish(files);
        }
        if (!plan.KeepsFolderTimes)
        {
            return;
        }
        // Folders that moved have theirs from where they were, whatever came into them since.
        var times = plan.Held.Where(h => h.Time is not null).Select(h => (h.Path, Time: h.Time!.Value)).Concat(plan.Steps.OfType<MoveEmptyFolderStep>().Select(s => (Path: s.Destination, s.Time)));
        foreach (var (path, time) in times)
        {
            if (files.FolderTime(path) is { } now && now != time)
            {
                files.SetFolderTime(path, time);
                files.FlushFolder(path);
            }
        }
    }

    /// <summary>Why the plan cannot be applied where it was made for.</summary>
    internal static IEnumerable<Fault> Refusals(Plan plan, IDurableFiles files)
    {
        foreach (var held in plan.Held)
        {
            if (Broken(held, files) is { } fault)
            {
                yield return fault;
            }
        }
    }

    /// <summary>What is wrong with the place of a name that a step changes; null when it lies in a root, links followed, as it was planned.</summary>
    internal static Fault? Broken(Plan plan, string path, IDurableFiles files)
    {
        var parent = files.Real(Path.GetDirectoryName(path)!);
        return plan.Held.Any(h => h.IsRoot && ShelfPath.IsWithin(parent, h.RealPath)) ? null : new Fault(FaultCode.NotAPlaceOfThePlan) { Path = path };
    }

    /// <summary>The plan with every path in one folder taken to the same place in another one, as after the folder was moved or renamed.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="from">Absolute path that the folder had.</param>
    /// <param name="to">Absolute path that it has now.</param>
    public static Plan Moved(Plan plan, string from, string to)
    {
        ArgumentNullException.ThrowIfNull(plan);
        string Path(string path) => path == from || path.StartsWith(from + "/", StringComparison.Ordinal) ? to + path[from.Length..] : path;
        return plan with { WritableRoots = [.. plan.WritableRoots.Select(Path)], Held = [], Steps = [.. plan.Steps.Select(s => s.Moved(Path))] };
    }

    private static Fault? Broken(HeldPlace held, IDurableFiles files)
    {
        if (files.Look(held.Path) is not { Kind: EntryKind.Folder } facts)
        {
            return new Fault(FaultCode.RootGone) { Path = held.Path };
        }
        if (facts.Device != held.Device)
        {
            return new Fault(FaultCode.RootIsAnother) { Path = held.Path };
        }
        return files.Real(held.Path) == held.RealPath ? null : new Fault(FaultCode.PlaceLeadsElsewhere) { Path = held.Path, Other = files.Real(held.Path) };
    }

    private static HeldPlace At(string folder, bool isRoot, IDurableFiles files) =>
        new(folder, files.Real(folder), files.Look(folder)?.Device ?? 0, isRoot);
}

/// <summary>
/// A small file in each root of a plan that is being applied. By it the drive is known again that the work was begun on,
/// whatever place or number the system gives it later: an empty mount point, or another drive in the same place, has none.
/// It also keeps room on the drive, so that the documents, which come last, find some when copies have filled it.
/// </summary>
internal sealed class PlanMarks(Plan plan, IDurableFiles files)
{
    // A document that is re-pointed may come out a little longer than planned, and folders take room as well.
    private const long SpareBytes = 256 * 1024;

    private ImmutableArray<string> Roots => [.. plan.Held.Where(h => h.IsRoot).Select(h => h.Path)];

    /// <summary>Makes the marks, safe against a power cut.</summary>
    public void Make()
    {
        foreach (var root in Roots)
        {
            using (var mark = files.CreateNew(MarkIn(root), Room(root)))
            {
                mark.Write("Neat Crate is at work here.\n"u8, 0);
                mark.Flush();
            }
            files.FlushFolder(root);
        }
    }

    /// <summary>Gives back the room that was kept for the documents.</summary>
    public void GiveRoom()
    {
        foreach (var root in Roots.Where(r => Room(r) > 0))
        {
            // A new mark takes the place of the one that kept the room: a mark is there at every moment.
            var small = MarkIn(root) + ".new";
            using (var mark = files.CreateNew(small, 0))
            {
                mark.Flush();
            }
            if (files.TrySwap(small, MarkIn(root)))
            {
                files.Remove(small);
            }
            else
            {
                files.Remove(MarkIn(root));
                files.RenameToFreeName(small, MarkIn(root));
            }
        }
    }

    /// <summary>A root without its mark: its drive is away, or another one stands there; null when all are there.</summary>
    public string? Missing() => Roots.FirstOrDefault(r => files.LookAtName(MarkIn(r)) is null && files.LookAtName(MarkIn(r) + ".new") is null);

    /// <summary>Removes the marks that can be reached, safe against a power cut.</summary>
    public void Remove()
    {
        foreach (var root in Roots)
        {
            var there = false;
            foreach (var mark in new[] { MarkIn(root), MarkIn(root) + ".new" }.Where(m => files.LookAtName(m) is not null))
            {
                files.Remove(mark);
                there = true;
            }
            if (there)
            {
                files.FlushFolder(root);
            }
        }
    }

    private string MarkIn(string root) => Path.Combine(root, $".neat-crate-{plan.Id:N}.open");

    /// <summary>Bytes that are kept free in a root for what cannot be left out.</summary>
    private long Room(string root) => plan.KeepsPart
        ? plan.Steps.Where(s => !s.CanBeLeftOut && ShelfPath.IsWithin(s.Destination, root)).Sum(s => s.WritesBytes) + SpareBytes
        : 0;
}
