using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

public sealed class PlanJournalTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly Guid _session = Guid.NewGuid();

    public void Dispose() => _temp.Dispose();

    private Plan NewPlan(PlanKind kind = PlanKind.CopyIn, Guid? undoes = null) => new()
    {
        Id = Guid.NewGuid(),
        Kind = kind,
        SessionId = _session,
        Sentence = "Copy 1 file.",
        WritableRoots = ["/drive/session"],
        Held = [new HeldPlace("/drive/session", "/mnt/session", 7, true)],
        Steps = [new MakeFolderStep("/drive/session/Audio", "takes"), MakeFileStep.Write("/drive/session/s.otio", "re-pointed", [1, 2, 3])],
        Undoes = undoes,
        By = new Who("wren", "Wren Achterberg"),
    };

    [Fact]
    public void WhatWasRecordedIsThereAfterARestart()
    {
        var plan = NewPlan();
        var modified = new DateTime(2026, 10, 14, 20, 0, 1, DateTimeKind.Utc).AddTicks(3);
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var journal = new PlanJournal(files, TimeProvider.System);
            journal.Begin(plan);
            journal.Record(plan.Id, new StepRecord(0, StepState.Done));
            journal.Record(plan.Id, new StepRecord(1, StepState.Started));
            journal.Record(plan.Id, new StepRecord(1, StepState.Staged, new ByteIdentity(3, 77), [9, 8], modified, 89));
            // A later record that leaves them out keeps what was written and what was before.
            journal.Record(plan.Id, new StepRecord(1, StepState.Done));
        }
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var open = Assert.Single(new PlanJournal(files, TimeProvider.System).Unfinished());
            Assert.Equal(PlanJson.Write(plan), PlanJson.Write(open.Plan!));
            Assert.Equal(OpenState.Begun, open.State);
            Assert.Equal([(0, StepState.Done), (1, StepState.Done)], open.Records.Select(r => (r.Index, r.State)));
            Assert.Equal((new ByteIdentity(3, 77), modified), (open.Records[1].Written!.Value, open.Records[1].BeforeModifiedUtc!.Value));
            Assert.Equal([9, 8], open.Records[1].Before);
            Assert.Equal(89, open.Records[1].BeforeModifiedRest);
            Assert.Equal(new Who("wren", "Wren Achterberg"), open.Plan!.By);
        }
    }

    [Fact]
    public void APlanLeavesTheUnfinishedOnesWhenItEndsAndStandsInTheHistory()
    {
        using var files = StoreFiles.Open(_temp.Path);
        var journal = new PlanJournal(files, TimeProvider.System);
        var plan = NewPlan();
        journal.Begin(plan);
        Assert.False(journal.IsCommitted(plan.Id));
        journal.Commit(plan.Id);
        Assert.True(journal.IsCommitted(plan.Id));
        Assert.Equal(OpenState.Committed, Assert.Single(journal.Unfinished()).State);
        Assert.Empty(journal.History(_session, 10));
        journal.Settle(plan.Id, PlanOutcome.Applied, []);
        // Its marks may still be on a drive.
        Assert.Equal(OpenState.Settled, Assert.Single(journal.Unfinished()).State);
        journal.Close(plan.Id);
        Assert.Empty(journal.Unfinished());
        Assert.Equal((PlanState.Applied, PlanKind.CopyIn, true), Assert.Single(journal.History(_session, 10)) is var row ? (row.State, row.Kind!.Value, row.IsKept) : default);
        Assert.Equal("Wren Achterberg", journal.History(_session, 10)[0].By!.Name);
        Assert.Empty(journal.History(Guid.NewGuid(), 10));
        Assert.Empty(journal.Undone(_session));
        var undo = NewPlan(PlanKind.Undo, plan.Id);
        Apply(journal, undo);
        Assert.Equal([plan.Id], journal.Undone(_session));
    }

    [Fact]
    public void WhatFollowsFromAPlanIsToBeDoneUntilItIsSaidToBeDone()
    {
        var plan = NewPlan();
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var journal = new PlanJournal(files, TimeProvider.System);
            Apply(journal, plan);
            var failed = NewPlan();
            journal.Begin(failed);
            journal.Settle(failed.Id, PlanOutcome.Failed, []);
            journal.Close(failed.Id);
        }
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var journal = new PlanJournal(files, TimeProvider.System);
            Assert.Equal(plan.Id, Assert.Single(journal.NotFollowed()).Id);
            journal.Follow(plan.Id);
            Assert.Empty(journal.NotFollowed());
        }
    }

    [Theory]
    [InlineData(PlanOutcome.Cancelled, PlanState.Cancelled)]
    [InlineData(PlanOutcome.Failed, PlanState.Failed)]
    [InlineData(PlanOutcome.TakenBack, PlanState.TakenBack)]
    public void HowAPlanEndedIsKeptWithTheReason(PlanOutcome outcome, PlanState state)
    {
        using var files = StoreFiles.Open(_temp.Path);
        var journal = new PlanJournal(files, TimeProvider.System);
        var plan = NewPlan();
        journal.Begin(plan);
        Fault[] why = [new Fault(FaultCode.NoSpace) { Path = "/drive/session/a.wav", Bytes = 7 }, new Fault(FaultCode.LeftOut) { Reasons = [new Fault(FaultCode.SourceGone) { Path = "x" }] }];
        journal.Settle(plan.Id, outcome, why);
        Assert.Equal(state, journal.Find(plan.Id)!.State);
        Assert.Equal(why, Fault.Read(Assert.Single(journal.History(_session, 10)).Note!)!.Value);
    }

    [Fact]
    public void APlanWhoseTextCannotBeReadIsSetApartAndHindersNoOther()
    {
        using var files = StoreFiles.Open(_temp.Path);
        var journal = new PlanJournal(files, TimeProvider.System);
        var (broken, later, good) = (NewPlan(), NewPlan(), NewPlan());
        journal.Begin(broken);
        journal.Begin(later);
        journal.Begin(good);
        using (var db = files.NewDb())
        {
            db.Database.ExecuteSql($"UPDATE Plans SET Json = substr(Json, 1, 40) WHERE Id = {broken.Id}");
            db.Database.ExecuteSql($"UPDATE Plans SET Json = replace(Json, '\"Version\":3', '\"Version\":999') WHERE Id = {later.Id}");
        }
        var open = journal.Unfinished();
        Assert.Equal([broken.Id, later.Id], open.Where(o => o.Plan is null && o.Problem!.Code == FaultCode.PlanUnreadable).Select(o => o.Id));
        Assert.Equal(good.Id, Assert.Single(open, o => o.Plan is not null).Id);
        journal.SetApart(broken.Id, open[0].Problem!);
        journal.SetApart(later.Id, open[1].Problem!);
        Assert.Equal(good.Id, Assert.Single(journal.Unfinished()).Id);
        Assert.Equal(2, journal.History(_session, 10).Count(h => h.State == PlanState.SetApart));
    }

    [Fact]
    public void AnOldHistoryKeepsItsSentencesAndLosesWhatAnUndoWouldNeed()
    {
        using var files = StoreFiles.Open(_temp.Path);
        var time = new Clock(new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero));
        var journal = new PlanJournal(files, time);
        var (old, open, bundle) = (NewPlan(), NewPlan(), NewPlan(PlanKind.Bundle) with { Steps = [MakeFileStep.Write("/drive/outbox/b.zip", "the bundle", [1])] });
        journal.Record(old.Id, new StepRecord(0, StepState.Done, null, new byte[1000]));
        Apply(journal, old);
        journal.Follow(old.Id);
        journal.Record(bundle.Id, new StepRecord(0, StepState.Done, new ByteIdentity(1, 5)));
        Apply(journal, bundle);
        journal.Follow(bundle.Id);
        journal.Begin(open);
        time.Now = time.Now.AddDays(40);
        var young = NewPlan();
        Apply(journal, young);
        journal.Follow(young.Id);
        Assert.Equal(2, journal.Thin(TimeSpan.FromDays(30)));
        Assert.Null(journal.Find(old.Id));
        Assert.NotNull(journal.Find(young.Id));
        Assert.NotNull(Assert.Single(journal.Unfinished()).Plan);
        Assert.Equal([(young.Id, true), (old.Id, false)], journal.History(_session, 10).Where(h => h.Kind != PlanKind.Bundle).Select(h => (h.Id, h.IsKept)));
        // Where a bundle went is still told.
        Assert.Equal(("/drive/outbox/b.zip", 1L), Assert.Single(journal.Bundles(_session, 10)) is var made ? (made.Path, made.Bytes) : default);
        using var db = files.NewDb();
        Assert.DoesNotContain(db.Steps, s => s.PlanId == old.Id);
    }

    [Fact]
    public void ADataFolderIsHeldByOneProcessAtATime()
    {
        using (StoreFiles.Open(_temp.Path))
        {
            Assert.Equal(FaultCode.DataFolderInUse, Assert.Throws<FaultException>(() => StoreFiles.Open(_temp.Path)).Fault.Code);
        }
        StoreFiles.Open(_temp.Path).Dispose();
    }

    [Fact]
    public void ALockThatAKilledMigrationLeftDoesNotBlockTheNextStart()
    {
        StoreFiles.Open(_temp.Path).Dispose();
        using (var connection = new SqliteConnection($"Data Source={Path.Combine(_temp.Path, "neat-crate.db")}"))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "INSERT INTO __EFMigrationsLock (Id, Timestamp) VALUES (1, '2026-10-14')";
            command.ExecuteNonQuery();
        }
        SqliteConnection.ClearAllPools();
        using var files = StoreFiles.Open(_temp.Path);
        using var db = files.NewDb();
        Assert.Empty(db.Database.GetPendingMigrations());
    }

    [Fact]
    public void TheJournalIsWrittenAheadAndFlushed()
    {
        using var files = StoreFiles.Open(_temp.Path);
        using var db = files.NewDb();
        Assert.Equal("wal", db.Database.SqlQueryRaw<string>("PRAGMA journal_mode").AsEnumerable().Single());
        // 2 is FULL: a transaction is on disk when its call returns (SQLite, "PRAGMA synchronous").
        Assert.Equal(2, db.Database.SqlQueryRaw<int>("PRAGMA synchronous").AsEnumerable().Single());
    }

    private static void Apply(PlanJournal journal, Plan plan)
    {
        journal.Begin(plan);
        journal.Commit(plan.Id);
        journal.Settle(plan.Id, PlanOutcome.Applied, []);
        journal.Close(plan.Id);
    }

    /// <summary>
    /// The drive of the data folder fills up in the middle of a plan (tmpfs, needs root): it is told as that, everything is put back, and the
    /// plan that could not be closed is closed once there is room.
    /// </summary>
    [Theory]
    [InlineData("before it begins")]
    [InlineData("after the first step")]
    [InlineData("at the end")]
    public void AFullDriveOfTheDataFolderIsToldAsThatAndNothingIsHalfDone(string when)
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var (data, session) = (_temp.Folder("data"), _temp.Folder("session"));
        File.WriteAllBytes(_temp.At("take.wav"), new byte[5000]);
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", data);
        try
        {
            using var files = StoreFiles.Open(data);
            var journal = new PlanJournal(files, TimeProvider.System);
            void Fill() => Tool.Try(data, "dd", "if=/dev/zero", "of=filler", "bs=1k");
            var plan = NewPlan() with
            {
                WritableRoots = [session],
                Held = [],
                Steps =
                [
                    MakeFileStep.Copy(Path.Combine(session, "one.wav"), "stands outside", _temp.At("take.wav"), new FileState(5000, File.GetLastWriteTimeUtc(_temp.At("take.wav")))),
                    // Its record holds all of this, which finds no room.
                    MakeFileStep.Write(Path.Combine(session, "two.otio"), "re-pointed", new byte[300_000]),
                ],
            };
            var filling = new Filling(journal, when, Fill);
            var runner = new Runner(filling, new DurableFiles());
            if (when == "before it begins")
            {
                Fill();
                Assert.Equal(FaultCode.DatabaseFull, FaultException.Of(Assert.ThrowsAny<Exception>(() => runner.Apply(plan, null, TestContext.Current.CancellationToken)))?.Code);
            }
            else
            {
                var result = runner.Apply(plan, null, TestContext.Current.CancellationToken);
                Assert.True(result.IsOpen);
                Assert.Equal(FaultCode.DatabaseFull, result.Cause?.Code ?? result.Remains.Single().Code);
            }
            Assert.DoesNotContain(Directory.GetFiles(session), f => f.EndsWith(".wav", StringComparison.Ordinal) || f.EndsWith(".otio", StringComparison.Ordinal));
            File.Delete(Path.Combine(data, "filler"));
            filling.IsOver = true;
            runner.Recover();
            Assert.Empty(journal.Unfinished());
            Assert.Empty(Directory.GetFileSystemEntries(session));
        }
        finally
        {
            Tool.Run("umount", data);
        }
    }

    /// <summary>A journal whose drive fills up at a time.</summary>
    private sealed class Filling(IJournal journal, string when, Action fill) : IJournal
    {
        private bool _isFull;

        public bool IsOver { get; set; }

        private void FillAt(string time)
        {
            if (when == time && !_isFull && !IsOver)
            {
                _isFull = true;
                fill();
            }
        }

        public void Begin(Plan plan) => journal.Begin(plan);

        public void Record(Guid planId, StepRecord record)
        {
            if (record.Index > 0)
            {
                FillAt("after the first step");
            }
            // A page that is there takes a few more bytes: the record is as long as one of a document can be.
            journal.Record(planId, _isFull && !IsOver ? record with { Before = new byte[1_000_000] } : record);
        }

        public void Commit(Guid planId)
        {
            FillAt("at the end");
            if (_isFull && !IsOver)
            {
                journal.Record(planId, new StepRecord(0, StepState.Done, Before: new byte[1_000_000]));
            }
            journal.Commit(planId);
        }

        public bool IsCommitted(Guid planId) => journal.IsCommitted(planId);

        public void Settle(Guid planId, PlanOutcome outcome, IReadOnlyList<Fault> notes)
        {
            if (_isFull && !IsOver)
            {
                journal.Record(planId, new StepRecord(0, StepState.Done, Before: new byte[1_000_000]));
            }
            journal.Settle(planId, outcome, notes);
        }

        public void Close(Guid planId) => journal.Close(planId);

        public IReadOnlyList<OpenPlan> Unfinished() => journal.Unfinished();
    }

    private sealed class Clock(DateTimeOffset now) : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = now;

        public override DateTimeOffset GetUtcNow() => Now;
    }
}
