using System.Collections.Concurrent;
using Microsoft.AspNetCore.SignalR;
using Microsoft.Extensions.Logging.Abstractions;
using NeatCrate.App.Jobs;
using NeatCrate.Core.Plans;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Jobs;

/// <summary>What waits for what, what is told, and how work ends; the work itself stops where a test wants it to.</summary>
public sealed class WorkEngineTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly RecordingGuard _guard = new();
    private readonly Told _told = new();
    private readonly WorkEngine _engine;

    public WorkEngineTests()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        _engine = NewEngine();
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private WorkEngine NewEngine() => new(
        _guard, new AskerAtThisMachine(), new EndedJobs(new StoredSettings(_files), NullLogger<EndedJobs>.Instance), _told, TimeProvider.System, NullLogger<WorkEngine>.Instance);

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private static Task Begun(Stop work) => work.Begun.Task.WaitAsync(TimeSpan.FromSeconds(30), Cancel);

    private static Task<JobView> Ended(Job job) => job.Ended.WaitAsync(TimeSpan.FromSeconds(30), Cancel);

    [Fact]
    public async Task WhatChangesAFolderWaitsForWhatReadsItAndSaysSo()
    {
        var (reading, changing, elsewhere, later) = (
            new Stop("reading") { Reads = ["/d/song"] }, new Stop("changing") { Changes = ["/d/song/Audio"] }, new Stop("elsewhere") { Changes = ["/d/song 2"] }, new Stop("later") { Reads = ["/d/song/Audio/a.wav"] });
        var first = _engine.Start(reading);
        var second = _engine.Start(changing);
        var third = _engine.Start(elsewhere);
        var fourth = _engine.Start(later);
        await Begun(reading);
        await Begun(elsewhere);
        Assert.Equal((JobState.Queued, "Waits for this to end: reading"), (second.View.State, second.View.Message));
        // It could read along, and would hold up the one that asked before it.
        Assert.Equal((JobState.Queued, "Waits for this to end: changing"), (fourth.View.State, fourth.View.Message));
        Assert.Contains(_engine.All(), j => j.Sentence == "changing" && j.State == JobState.Queued);
        reading.Go.Set();
        await Begun(changing);
        Assert.False(later.Begun.Task.IsCompleted);
        changing.Go.Set();
        await Begun(later);
        later.Go.Set();
        elsewhere.Go.Set();
        Assert.All(await Task.WhenAll(Ended(first), Ended(second), Ended(third), Ended(fourth)), v => Assert.Equal((JobState.Done, null), (v.State, v.Message)));
    }

    /// <summary>After a restart the list tells what became of what somebody asked for, and of what failed; what was done by itself, and well, it need not.</summary>
    [Fact]
    public async Task WhatIsOverIsInTheListOfTheNextStart()
    {
        async Task<JobView> Do(Stop work, bool isRemembered = true)
        {
            var job = _engine.Start(work);
            work.Go.Set();
            var over = await Ended(job);
            // It is remembered a moment after it is told.
            await Until(() => !isRemembered || NewEngine().All() is [var newest, ..] && newest.Id == over.Id);
            return over;
        }
        static async Task Until(Func<bool> holds)
        {
            for (var until = DateTime.UtcNow.AddSeconds(30); !holds(); await Task.Delay(5, Cancel))
            {
                Assert.True(DateTime.UtcNow < until);
            }
        }
        var asked = await Do(new Stop("a backup", JobWork.Backup));
        await Do(new Stop("a scan", JobWork.Scan), isRemembered: false);
        await Do(new Stop("a backup by itself", JobWork.Backup) { By = Who.ByItself }, isRemembered: false);
        var failed = await Do(new Stop("a scan that fails", JobWork.Scan, error: new IOException("The disk is gone.")) { By = Who.ByItself });
        var next = NewEngine();
        Assert.Equal<JobView>([failed, asked], next.All().ToArray());
        Assert.Equal(asked, next.Get(asked.Id));
        for (var n = 0; n < EndedJobs.Most + 5; n++)
        {
            await Do(new Stop($"{n}", JobWork.Backup));
        }
        Assert.Equal(EndedJobs.Most, NewEngine().All().Count);
        Assert.Equal($"{EndedJobs.Most + 4}", NewEngine().All()[0].Sentence);
        // Whatever stands there instead, the application starts and remembers what is over from then on.
        new StoredSettings(_files).Write("jobs that are over", new { not = "a list" });
        Assert.Empty(NewEngine().All());
    }

    [Fact]
    public async Task TwoThatReadOneFolderRunAtOnceAndOfAKindOnlySoManyDo()
    {
        Stop[] works = [.. Enumerable.Range(0, 3).Select(n => new Stop($"scan {n}", JobWork.Scan) { Reads = ["/d"], MostAtOnce = 2 })];
        var jobs = works.Select(_engine.Start).ToArray();
        await Begun(works[0]);
        await Begun(works[1]);
        Assert.Equal(JobState.Queued, jobs[2].View.State);
        works[1].Go.Set();
        await Begun(works[2]);
        works[0].Go.Set();
        works[2].Go.Set();
        await Task.WhenAll(jobs.Select(Ended));
    }

    [Fact]
    public async Task WhatIsCancelledWhileItWaitsEndsAtOnceAndHoldsNobodyUp()
    {
        var (first, second, third) = (new Stop("first") { Changes = ["/d"] }, new Stop("second") { Changes = ["/d"] }, new Stop("third") { Changes = ["/d"] });
        var running = _engine.Start(first);
        var waiting = _engine.Start(second);
        var last = _engine.Start(third);
        await Begun(first);
        _engine.Cancel(waiting.View.Id);
        Assert.Equal((JobState.Cancelled, "Cancelled. Nothing was changed."), await Ended(waiting) is var v ? (v.State, v.Message) : default);
        _engine.Stop(running);
        Assert.Equal(JobState.Cancelled, (await Ended(running)).State);
        await Begun(third);
        Assert.False(second.Begun.Task.IsCompleted);
        third.Go.Set();
        await Ended(last);
        // Too late is no error.
        _engine.Stop(last);
    }

    [Fact]
    public async Task ItHoldsStillWhileSomethingRecordsAndGoesOnAfterwards()
    {
        _guard.RecorderIn = "Net Mender";
        var work = new Stop("reading");
        work.Go.Set();
        var job = _engine.Start(work);
        await _told.Until(v => v is { State: JobState.Held, Message: "Waits: the recorder runs in 'Net Mender'." }, Cancel);
        _guard.RecorderIn = null;
        Assert.Equal((JobState.Done, 2, 20L), await Ended(job) is var v ? (v.State, v.FilesDone, v.BytesDone) : default);
    }

    [Fact]
    public async Task BriefWorkIsToldOfOnlyWhereItWaitsAndIsNotKept()
    {
        var quick = new Stop("quick", isBrief: true);
        quick.Go.Set();
        await Ended(_engine.Start(quick));
        Assert.DoesNotContain(_told.Views, v => v.Sentence == "quick");
        var (first, second) = (new Stop("first") { Changes = ["/d"] }, new Stop("second", isBrief: true) { Reads = ["/d"] });
        var running = _engine.Start(first);
        var waiting = _engine.Start(second);
        await _told.Until(v => v is { Sentence: "second", State: JobState.Queued, Message: "Waits for this to end: first" }, Cancel);
        first.Go.Set();
        second.Go.Set();
        await Ended(running);
        await Ended(waiting);
        // Whoever was told that it waits is told that it is over.
        await _told.Until(v => v is { Sentence: "second", State: JobState.Done }, Cancel);
        Assert.Equal(["first"], _engine.All().Select(v => v.Sentence));
    }

    [Fact]
    public async Task AnErrorIsToldAndFreesTheFolder()
    {
        var (broken, next) = (new Stop("broken", error: new IOException("The disk is gone.")) { Changes = ["/d"] }, new Stop("next") { Changes = ["/d"] });
        broken.Go.Set();
        var job = _engine.Start(broken);
        var after = _engine.Start(next);
        Assert.Equal(JobState.Failed, (await Ended(job)).State);
        Assert.StartsWith("Nothing was changed.", job.View.Message, StringComparison.Ordinal);
        next.Go.Set();
        Assert.Equal(JobState.Done, (await Ended(after)).State);
    }

    /// <summary>A request hears what its work threw, and one that goes away takes its work along.</summary>
    [Fact]
    public async Task WhoeverAskedGetsTheResultOrTheErrorAndTakesTheWorkAlong()
    {
        Assert.Equal("plan", await new AskedWork<string>(JobWork.Planning, "asked", _ => "plan").In(_engine, Cancel));
        var error = await Assert.ThrowsAsync<FaultException>(() => new AskedWork<string>(JobWork.Planning, "asked", _ => throw new FaultException(FaultCode.NotThere, "/a")).In(_engine, Cancel));
        Assert.Equal(FaultCode.NotThere, error.Fault.Code);
        using var asking = new CancellationTokenSource();
        var begun = new TaskCompletionSource();
        var gone = new AskedWork<string>(JobWork.Planning, "asked", job =>
        {
            begun.SetResult();
            job.Cancel.WaitHandle.WaitOne();
            job.Cancel.ThrowIfCancellationRequested();
            return "never";
        }).In(_engine, asking.Token);
        await begun.Task.WaitAsync(TimeSpan.FromSeconds(30), Cancel);
        await asking.CancelAsync();
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => gone);
        Assert.Empty(_engine.All());
    }

    /// <summary>What pages were told.</summary>
    private sealed class Told : IHubContext<JobsHub>, IHubClients, IClientProxy
    {
        private readonly ConcurrentQueue<JobView> _views = new();

        public IEnumerable<JobView> Views => _views;

        public IHubClients Clients => this;

        public IGroupManager Groups => throw new NotSupportedException();

        public IClientProxy All => this;

        public async Task Until(Func<JobView, bool> holds, CancellationToken cancel)
        {
            for (var until = DateTime.UtcNow.AddSeconds(30); !_views.Any(holds); await Task.Delay(5, cancel))
            {
                Assert.True(DateTime.UtcNow < until, $"Told were: {string.Join('\n', _views)}");
            }
        }

        public Task SendCoreAsync(string method, object?[] args, CancellationToken cancellationToken = default)
        {
            _views.Enqueue((JobView)args[0]!);
            return Task.CompletedTask;
        }

        public IClientProxy AllExcept(IReadOnlyList<string> excludedConnectionIds) => this;

        public IClientProxy Client(string connectionId) => this;

        IClientProxy IHubClients<IClientProxy>.Clients(IReadOnlyList<string> connectionIds) => this;

        public IClientProxy Group(string groupName) => this;

        public IClientProxy GroupExcept(string groupName, IReadOnlyList<string> excludedConnectionIds) => this;

        IClientProxy IHubClients<IClientProxy>.Groups(IReadOnlyList<string> groupNames) => this;

        public IClientProxy User(string userId) => this;

        public IClientProxy Users(IReadOnlyList<string> userIds) => this;
    }
}
