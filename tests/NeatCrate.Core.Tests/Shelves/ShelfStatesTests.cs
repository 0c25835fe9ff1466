using System.Diagnostics;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Shelves;

public sealed class ShelfStatesTests
{
    private static readonly ShelfState There = new(true, 100, 200);

    /// <summary>A network drive whose other end is gone answers nothing, for minutes: nobody waits for it, and it is asked once.</summary>
    [Fact]
    public void ADriveThatHangsHoldsUpNobodyAndIsAskedAgainWhenItAnswered()
    {
        using var answer = new ManualResetEventSlim();
        var asked = 0;
        var states = new ShelfStates(
            root =>
            {
                if (root == "/hangs")
                {
                    Interlocked.Increment(ref asked);
                    answer.Wait(TestContext.Current.CancellationToken);
                }
                return There;
            },
            TimeSpan.FromSeconds(0.2));
        string[] roots = ["/drive", "/hangs", "/card"];
        Assert.Equal([There, ShelfState.Silent, There], states.Of(roots));
        var watch = Stopwatch.StartNew();
        for (var n = 0; n < 20; n++)
        {
            Assert.Equal(ShelfState.Silent, states.Of(roots)[1]);
        }
        // Twenty more looks wait for it no more: that they would take four seconds otherwise is far from what is allowed here.
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(2), $"{watch.Elapsed}");
        Assert.Equal(1, asked);
        answer.Set();
        SpinWait.SpinUntil(() => states.Of(roots)[1] == There, TimeSpan.FromSeconds(10));
        Assert.Equal([There, There, There], states.Of(roots));
    }

    [Fact]
    public void ALookThatFailsCountsAsNoAnswerAndHarmsNoOther()
    {
        var states = new ShelfStates(root => root == "/odd" ? throw new IOException("The pages are wet") : There, TimeSpan.FromSeconds(5));
        Assert.Equal([ShelfState.Silent, There], states.Of(["/odd", "/drive"]));
    }

    [Fact]
    public void AFolderThatIsThereHasTheRoomOfItsDrive()
    {
        using var temp = new TempFolder();
        var state = new ShelfStates().Of([temp.Path, temp.Path + "/nowhere"]);
        // GNU coreutils: the size of the file system in bytes.
        Assert.Equal((true, long.Parse(Tool.Run("df", "-B1", "--output=size", temp.Path).Split('\n')[1].Trim(), System.Globalization.CultureInfo.InvariantCulture)), (state[0].IsConnected, state[0].TotalBytes!.Value));
        Assert.Equal(ShelfState.Away, state[1]);
    }
}
