using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

/// <summary>The database at the start: of an earlier version, damaged, foreign, of a later version, in a folder that cannot be used.</summary>
public sealed class StoreFilesTests : IDisposable
{
    private const string VersionBefore = "20261125030308_Catalogue";

    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private string Database => Path.Combine(_temp.Path, "neat-crate.db");

    private FaultCode Refused() => Assert.Throws<FaultException>(() => StoreFiles.Open(_temp.Path)).Fault.Code;

    /// <summary>The text of a plan as version 1 wrote it, with every kind of step that there was.</summary>
    private static string PlanOfVersion1 => File.ReadAllText(Path.Combine(AppProcess.Repository, "tests", "NeatCrate.Store.Tests", "Earlier", "plan-1.json"));

    private void MakeDatabaseOfVersion1(params (Guid Id, string Kind, string State, string Json)[] plans)
    {
        using var db = new NeatCrateDb(new DbContextOptionsBuilder<NeatCrateDb>().UseSqlite($"Data Source={Database}").Options);
        db.GetService<IMigrator>().Migrate(VersionBefore);
        foreach (var (id, kind, state, json) in plans)
        {
            var ended = state is "Open" or "Committed" ? (long?)null : 1_790_000_000_000;
            db.Database.ExecuteSql($"""
                INSERT INTO Plans (Id, Kind, SessionId, Sentence, Json, State, BegunMs, EndedMs, Note, Undoes)
                VALUES ({id}, {kind}, {Guid.Parse("99999999-2222-3333-4444-555555555555")}, {"Copy 1 file."}, {json}, {state}, {1_780_000_000_000}, {ended}, {"Cancelled by hand."}, {null})
                """);
            db.Database.ExecuteSql($"""INSERT INTO Steps (PlanId, "Index", State, Written, Before) VALUES ({id}, {6}, {"Done"}, {"3:4d"}, {new byte[] { 9 }})""");
        }
        SqliteConnection.ClearAllPools();
    }

    [Fact]
    public void ADatabaseOfTheVersionBeforeIsCopiedAndBroughtUpToDateWithItsOpenPlansAndItsHistory()
    {
        var (open, done, bundle) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        MakeDatabaseOfVersion1((open, "CopyIn", "Open", PlanOfVersion1), (done, "Version", "Applied", PlanOfVersion1), (bundle, "Undo", "Cancelled", PlanOfVersion1));
        using var files = StoreFiles.Open(_temp.Path);
        var journal = new PlanJournal(files, TimeProvider.System);

        var unfinished = Assert.Single(journal.Unfinished());
        Assert.Equal((open, OpenState.Begun, PlanKind.CopyIn), (unfinished.Id, unfinished.State, unfinished.Plan!.Kind));
        Assert.True(unfinished.Plan.KeepsPart);
        Assert.Equal((6, StepState.Done, (byte)9), Assert.Single(unfinished.Records) is var r ? (r.Index, r.State, r.Before![0]) : default);
        // The number that the text has in place of a kind came to mean something else; the name beside it did not.
        Assert.Equal(PlanKind.Version, journal.Find(done)!.Plan.Kind);
        var steps = unfinished.Plan.Steps;
        Assert.Equal(
            ["make folder", "copy", "move", "put together", "convert", "write", "re-write", "re-point", "remove", "remove folder", "pack"], steps.Select(s => s.Verb));
        Assert.Equal((14_444L, "ROOT/library/drum.wav"), (steps[1].WritesBytes, steps[1].SourcePath));
        Assert.Equal((14_403L, 2), steps[3] is MakeFileStep { Origin: FileRanges ranges } made ? (made.Bytes, ranges.Pieces.Length) : default);
        Assert.Equal(48_000, steps[4] is MakeFileStep { Transform: ConvertRate convert } ? convert.SampleRate : 0);
        Assert.Equal("{}"u8.ToArray(), Assert.IsType<GivenBytes>(Assert.IsType<MakeFileStep>(steps[5]).Origin).Content);
        Assert.Equal(UInt128.Parse("340282366920938463463374607431768211000", System.Globalization.CultureInfo.InvariantCulture), ((ReplaceDocumentStep)steps[6]).Expected.Hash);
        Assert.Equal(2, ((PackBundleStep)steps[10]).Contents.Entries.Length);

        Assert.Equal("Cancelled by hand.", journal.History(Guid.Parse("99999999-2222-3333-4444-555555555555"), 10).Single(h => h.Id == bundle).Note);
        // What was applied then was followed then.
        Assert.Empty(journal.NotFollowed());
        using var copy = new SqliteConnection($"Data Source={Database}.before-{VersionBefore}");
        copy.Open();
        using var command = copy.CreateCommand();
        command.CommandText = "SELECT count(*) FROM Plans";
        Assert.Equal(3L, command.ExecuteScalar());
    }

    [Fact]
    public void ADatabaseThatIsUpToDateIsNotCopied()
    {
        StoreFiles.Open(_temp.Path).Dispose();
        StoreFiles.Open(_temp.Path).Dispose();
        Assert.Empty(Directory.EnumerateFiles(_temp.Path, "*.before-*"));
    }

    [Fact]
    public void ADamagedDatabaseIsSaidToBeDamagedAndLeftAsItIs()
    {
        using (var files = StoreFiles.Open(_temp.Path))
        using (var db = files.NewDb())
        {
            db.Settings.AddRange(Enumerable.Range(0, 2000).Select(n => new SettingRow { Key = $"{n}", Value = new string('x', 200) }));
            db.SaveChanges();
            db.Database.ExecuteSqlRaw("PRAGMA wal_checkpoint(TRUNCATE)");
        }
        var bytes = File.ReadAllBytes(Database);
        // Pages in the middle, as a failing drive leaves them.
        new Random(1).NextBytes(bytes.AsSpan(bytes.Length / 2, 40_000));
        File.WriteAllBytes(Database, bytes);
        Assert.Equal(FaultCode.DatabaseDamaged, Refused());
        Assert.Equal(bytes, File.ReadAllBytes(Database));
    }

    [Fact]
    public void AFileThatIsNoDatabaseIsLeftAsItIs()
    {
        File.WriteAllText(Database, "Lyrics of Low Water, third draft. Not a database at all, and longer than a hundred bytes, so that nobody can take it for one.");
        Assert.Equal(FaultCode.DatabaseForeign, Refused());
        Assert.StartsWith("Lyrics", File.ReadAllText(Database), StringComparison.Ordinal);
    }

    [Fact]
    public void ADatabaseOfSomebodyElseIsLeftAsItIs()
    {
        using (var connection = new SqliteConnection($"Data Source={Database}"))
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "CREATE TABLE Recipes (Name TEXT)";
            command.ExecuteNonQuery();
        }
        SqliteConnection.ClearAllPools();
        Assert.Equal(FaultCode.DatabaseForeign, Refused());
    }

    [Fact]
    public void ADatabaseOfALaterVersionIsRefusedByName()
    {
        using (var files = StoreFiles.Open(_temp.Path))
        using (var db = files.NewDb())
        {
            db.Database.ExecuteSqlRaw("INSERT INTO __EFMigrationsHistory (MigrationId, ProductVersion) VALUES ('20991231000000_Later', '10.0.15')");
        }
        var fault = Assert.Throws<FaultException>(() => StoreFiles.Open(_temp.Path)).Fault;
        Assert.Equal((FaultCode.DatabaseNewer, "20991231000000_Later"), (fault.Code, fault.Name));
    }

    [Fact]
    public void AFileInPlaceOfTheDataFolderIsSaidToBeOne()
    {
        var file = Path.Combine(_temp.Path, "file");
        File.WriteAllText(file, "x");
        Assert.Equal(FaultCode.DataFolderUnusable, Assert.Throws<FaultException>(() => StoreFiles.Open(file)).Fault.Code);
    }

    /// <summary>A file system that is mounted read-only (needs root): not "in use by another process".</summary>
    [Fact]
    public void ADataFolderThatCannotBeWrittenIsNotSaidToBeInUse()
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var folder = _temp.Folder("data");
        StoreFiles.Open(folder).Dispose();
        Tool.Run("mount", "--bind", folder, folder);
        try
        {
            Tool.Run("mount", "-o", "remount,bind,ro", folder);
            Assert.Equal(FaultCode.DataFolderUnusable, Assert.Throws<FaultException>(() => StoreFiles.Open(folder)).Fault.Code);
        }
        finally
        {
            Tool.Run("umount", folder);
        }
    }

    /// <summary>A file system of half a megabyte (tmpfs, needs root), full to the last byte.</summary>
    [Fact]
    public void AFullDriveIsSaidToBeFull()
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        var folder = _temp.Folder("small");
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=512k", "tmpfs", folder);
        try
        {
            Tool.Try(folder, "dd", "if=/dev/zero", "of=filler", "bs=1k");
            Assert.Equal(FaultCode.DatabaseFull, Assert.Throws<FaultException>(() => StoreFiles.Open(folder)).Fault.Code);
        }
        finally
        {
            Tool.Run("umount", folder);
        }
    }
}
