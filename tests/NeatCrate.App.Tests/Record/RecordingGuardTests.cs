using NeatCrate.App.Jobs;

namespace NeatCrate.App.Tests.Record;

public sealed class RecordingGuardTests
{
    private readonly RecordingGuard _guard = new();
    private readonly Guid _session = Guid.NewGuid();

    [Fact]
    public void WhileNothingRecordsNobodyWaits()
    {
        var told = new List<string>();
        Assert.False(_guard.WaitUntilQuiet(TestContext.Current.CancellationToken, told.Add));
        Assert.Empty(told);
        Assert.Null(_guard.What);
    }

    [Fact]
    public void TheRecorderGoesBeforeWhatGrowsAndBothAreNamed()
    {
        _guard.SetGrowing(_session, "Net Mender", ["/drive/Net Mender/Audio/Cello 03.wav"]);
        Assert.Equal("'Cello 03.wav' is growing in 'Net Mender'", _guard.What);
        Assert.Equal(["/drive/Net Mender/Audio/Cello 03.wav"], _guard.GrowingIn(_session));
        Assert.Empty(_guard.GrowingIn(Guid.NewGuid()));
        _guard.RecorderIn = "Low Water";
        Assert.Equal("the recorder runs in 'Low Water'", _guard.What);
        _guard.RecorderIn = null;
        _guard.SetGrowing(_session, "Net Mender", []);
        Assert.Null(_guard.What);
    }

    [Fact]
    public async Task WhoeverWaitsIsToldOnceAndGoesOnWhenAllIsQuiet()
    {
        var told = new List<string>();
        _guard.RecorderIn = "Low Water";
        var waiting = Task.Run(() => _guard.WaitUntilQuiet(CancellationToken.None, told.Add), TestContext.Current.CancellationToken);
        SpinWait.SpinUntil(() => told.Count > 0, TimeSpan.FromSeconds(10));
        Assert.False(waiting.IsCompleted);
        _guard.RecorderIn = null;
        Assert.True(await waiting.WaitAsync(TimeSpan.FromSeconds(10), TestContext.Current.CancellationToken));
        Assert.Equal(["the recorder runs in 'Low Water'"], told);
    }

    [Fact]
    public async Task WaitingCanBeEnded()
    {
        _guard.RecorderIn = "Low Water";
        using var cancel = new CancellationTokenSource();
        var waiting = Task.Run(() => _guard.WaitUntilQuiet(cancel.Token), TestContext.Current.CancellationToken);
        await cancel.CancelAsync();
        await Assert.ThrowsAsync<OperationCanceledException>(() => waiting.WaitAsync(TimeSpan.FromSeconds(10), TestContext.Current.CancellationToken));
    }
}
