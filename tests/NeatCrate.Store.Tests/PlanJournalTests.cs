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
        Steps = [new MakeFolderStep("/drive/session/Audio", "takes"), new WriteDocumentStep("/drive/session/s.otio", "re-pointed", [1, 2, 3], null)],
        Undoes = undoes,
    };

    [Fact]
    public void WhatWasRecordedIsThereAfterARestart()
    {
        var plan = NewPlan();
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var journal = new PlanJournal(files, TimeProvider.System);
            journal.Begin(plan);
            journal.Record(plan.Id, new StepRecord(0, StepState.Done));
            journal.Record(plan.Id, new StepRecord(1, StepState.Started));
            journal.Record(plan.Id, new StepRecord(1, StepState.Staged, new ByteIdentity(3, 77), [9, 8]));
            // A later record that leaves them out keeps what was written and what was before.
            journal.Record(plan.Id, new StepRecord(1, StepState.Done));
        }
        using (var files = StoreFiles.Open(_temp.Path))
        {
            var open = Assert.Single(new PlanJournal(files, TimeProvider.System).Unfinished());
            Assert.Equal(PlanJson.Write(plan), PlanJson.Write(open.Plan));
            Assert.False(open.Committed);
            Assert.Equal([(0, StepState.Done), (1, StepState.Done)], open.Records.Select(r => (r.Index, r.State)));
            Assert.Equal(new ByteIdentity(3, 77), open.Records[1].Written);
            Assert.Equal([9, 8], open.Records[1].Before);
        }
    }

    [Fact]
    public void APlanLeavesTheUnfinishedOnesWhenItEndsAndStandsInTheHistory()
    {
        using var files = StoreFiles.Open(_temp.Path);
        var journal = new PlanJournal(files, TimeProvider.System);
        var plan = NewPlan();
        journal.Begin(plan);
        journal.Commit(plan.Id);
        Assert.True(Assert.Single(journal.Unfinished()).Committed);
        Assert.Empty(journal.History(_session, 10));
        journal.Close(plan.Id, PlanOutcome.Applied, null);
        Assert.Empty(journal.Unfinished());
        Assert.Equal(PlanState.Applied, Assert.Single(journal.History(_session, 10)).State);
        Assert.Empty(journal.History(Guid.NewGuid(), 10));
        Assert.Empty(journal.Undone(_session));
        var undo = NewPlan(PlanKind.Undo, plan.Id);
        journal.Begin(undo);
        journal.Close(undo.Id, PlanOutcome.Applied, null);
        Assert.Equal([plan.Id], journal.Undone(_session));
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
        journal.Close(plan.Id, outcome, "because");
        var entry = journal.Find(plan.Id)!;
        Assert.Equal((state, "because"), (entry.Row.State, entry.Row.Note));
    }

    [Fact]
    public void ADataFolderIsHeldByOneProcessAtATime()
    {
        using (StoreFiles.Open(_temp.Path))
        {
            Assert.Throws<DataFolderInUseException>(() => StoreFiles.Open(_temp.Path));
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
}
