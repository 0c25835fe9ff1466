using System.Diagnostics;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>
/// The real process is killed (SIGKILL) at random instants of copy in, undo and bundle, and started again. After each
/// start the session must be as before or as after, nothing in between, and nothing outside may have been touched.
/// </summary>
public abstract class KillTests
{
    protected static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private protected static async Task<TimeSpan> Timed(LiveSession session, System.Text.Json.Nodes.JsonNode plan)
    {
        var watch = Stopwatch.StartNew();
        Assert.Equal("Done", (await session.App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        return watch.Elapsed;
    }

    private protected static async Task KillWithin(LiveSession session, System.Text.Json.Nodes.JsonNode plan, TimeSpan whole, Random random)
    {
        await session.App.Post($"/api/plans/{plan["id"]}/apply", null, Cancel);
        // A random instant of the work, not a wait for anything.
        var until = Stopwatch.GetTimestamp() + (long)(random.NextDouble() * whole.TotalSeconds * Stopwatch.Frequency);
        SpinWait.SpinUntil(() => Stopwatch.GetTimestamp() >= until);
        session.App.Kill();
        session.App.Dispose();
        session.Restart();
    }

    private protected static async Task<int> DismissNotices(LiveSession session)
    {
        var notices = (await session.App.Get("/api/notices", Cancel)).AsArray();
        foreach (var notice in notices)
        {
            using var response = await session.App.Client.DeleteAsync($"/api/notices/{notice!["id"]}", Cancel);
            Assert.True(response.IsSuccessStatusCode);
        }
        return notices.Count;
    }

    /// <summary>Everything in a folder by its bytes. A document that was put back has a new time, so times do not count here.</summary>
    private protected static SortedDictionary<string, string> Contents(string folder)
    {
        var tree = Tree.Of(folder);
        foreach (var (path, state) in tree.ToList())
        {
            tree[path] = state.LastIndexOf(' ') is > 0 and var at ? state[..at] : state;
        }
        return tree;
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class CopyInKillTests : KillTests
{
    private const int Kills = 30;

    [Fact]
    public async Task KilledInCopyInOrUndoTheSessionIsAsBeforeOrAsAfter()
    {
        using var session = new LiveSession(12, 150_000);
        await session.Know(Cancel);
        var library = Tree.Of(session.Library);
        var outside = Contents(session.Drive);

        var plan = await session.PlanCopyIn(Cancel);
        var whole = await Timed(session, plan);
        var inside = Contents(session.Drive);
        Assert.NotEqual(outside, inside);

        var random = new Random(1);
        var (before, after, told) = (0, 0, 0);
        for (var n = 0; n < Kills; n++)
        {
            // Whatever the last kill left is the start of this one: copy in where all is outside, undo where all is inside.
            var isInside = Contents(session.Drive).SequenceEqual(inside);
            var next = isInside ? await session.App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel) : plan = await session.PlanCopyIn(Cancel);
            await KillWithin(session, next, whole, random);
            var now = Contents(session.Drive);
            Assert.True(now.SequenceEqual(outside) || now.SequenceEqual(inside), $"Kill {n} left the session in between: {string.Join(", ", now.Keys)}");
            if (now.SequenceEqual(isInside ? inside : outside))
            {
                before++;
            }
            else
            {
                after++;
            }
            Assert.Equal(library, Tree.Of(session.Library));
            told += await DismissNotices(session);
        }
        Assert.True(before >= 5, $"Only {before} of {Kills} kills fell into the work ({after} after it): it is too fast for them.");
        Assert.True(told >= 3, $"The user was told of {told} cut-off plans only.");
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class BundleKillTests : KillTests
{
    private const int Kills = 25;

    [Fact]
    public async Task KilledInPackingTheOutboxHoldsAWholeBundleOrNone()
    {
        using var session = new LiveSession(12, 150_000);
        await session.Know(Cancel);
        var (library, drive) = (Tree.Of(session.Library), Tree.Of(session.Drive));
        var whole = await Timed(session, await session.PlanBundle(Cancel));
        File.Delete(Assert.Single(Directory.GetFiles(session.Outbox)));
        var random = new Random(2);
        var (none, packed) = (0, 0);
        for (var n = 0; n < Kills; n++)
        {
            await KillWithin(session, await session.PlanBundle(Cancel), whole, random);
            foreach (var bundle in Directory.GetFiles(session.Outbox))
            {
                Assert.EndsWith(".zip", bundle, StringComparison.Ordinal);
                Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
                File.Delete(bundle);
                packed++;
                none--;
            }
            none++;
            Assert.Equal(library, Tree.Of(session.Library));
            Assert.Equal(drive, Tree.Of(session.Drive));
        }
        Assert.True(none >= 5, $"Only {none} of {Kills} kills fell into the work ({packed} after it).");
    }
}
