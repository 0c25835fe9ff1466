using NeatCrate.Core.Documents;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>Power cuts at every moment of a plan.</summary>
internal static class CutOffs
{
    private const int LeastMoments = 15;

    /// <summary>
    /// Applies a plan. At every moment at which the journal is written, the disk is kept as it stands, as a power cut would
    /// leave it; from each of these a restart must lead to before or to after.
    /// </summary>
    /// <param name="root">Everything that the plan may touch.</param>
    /// <param name="journal">The journal; it may hold earlier plans.</param>
    /// <param name="plan">The plan.</param>
    public static void AssertBeforeOrAfter(string root, MemoryJournal journal, Plan plan)
    {
        Assert.Empty(plan.Refusals);
        using var kept = new TempFolder();
        var before = Tree.Of(root);
        var moments = new List<(string Disk, MemoryJournal Journal)>();
        journal.Moment = () =>
        {
            var disk = Path.Combine(kept.Path, $"{moments.Count}");
            Tree.Copy(root, disk);
            moments.Add((disk, journal.Copy()));
        };
        journal.Apply(plan);
        var after = Tree.Of(root);
        Assert.NotEqual(before, after);
        Assert.True(moments.Count > LeastMoments);
        var (toBefore, toAfter) = (0, 0);
        foreach (var (disk, cut) in moments)
        {
            Tree.Restore(disk, root);
            Assert.DoesNotContain(cut.Recover(), r => r.Problem is not null || !r.Remains.IsEmpty);
            Assert.Empty(cut.Unfinished());
            var now = Tree.Of(root);
            if (Strip(before).SequenceEqual(Strip(now)))
            {
                toBefore++;
            }
            else
            {
                Assert.Equal(Strip(after), Strip(now));
                toAfter++;
            }
        }
        Assert.True(toBefore > 5 && toAfter > 1, $"{toBefore} led to before, {toAfter} to after");
    }

    /// <summary>A document that was written back is the same document at a new time.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Strip(SortedDictionary<string, string> tree) =>
        tree.Select(e => e.Key.EndsWith(SessionFolder.DocumentExtension, StringComparison.Ordinal)
            ? KeyValuePair.Create(e.Key, e.Value[..e.Value.LastIndexOf(' ')])
            : e);
}
