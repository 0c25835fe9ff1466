using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

public sealed class VersionPlannerTests : IDisposable
{
    private static readonly DateOnly Day = new(2026, 10, 20);

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private Plan Plan(VersionNaming naming, bool archiveOlder = true) =>
        VersionPlanner.Plan(_session.SessionId, _session.Inventory(), naming, archiveOlder, Day);

    [Theory]
    [InlineData("261014 Net Mender", VersionNaming.Today, "261020 Net Mender")]
    [InlineData("2026-10-14_Net Mender", VersionNaming.Today, "2026-10-20_Net Mender")]
    [InlineData("20261014-Net Mender", VersionNaming.Today, "20261020-Net Mender")]
    [InlineData("261014_Net Mender", VersionNaming.Today, "261020_Net Mender")]
    // Near the day of the last change it is the 14th of October, not some day of 2014.
    [InlineData("141026 Net Mender", VersionNaming.Today, "201026 Net Mender")]
    [InlineData("991399 Net Mender", VersionNaming.Today, "261020 991399 Net Mender")]
    [InlineData("Net Mender", VersionNaming.Today, "261020 Net Mender")]
    [InlineData("Net Mender", VersionNaming.NextNumber, "Net Mender v2")]
    [InlineData("261014 Net Mender v9", VersionNaming.NextNumber, "261014 Net Mender v10")]
    [InlineData("Net Mender v2 rough", VersionNaming.NextNumber, "Net Mender v2 rough v2")]
    public void AVersionGetsTheNextName(string name, VersionNaming naming, string expected) =>
        Assert.Equal(expected, VersionName.After(name, naming, Day, new DateTime(2026, 10, 14, 22, 0, 0, DateTimeKind.Utc)));

    [Fact]
    public void TheOlderDocumentIsPutAwayAndStillPointsAtItsFiles()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Save();
        var before = Tree.Of(_session.Folder);
        var journal = new MemoryJournal();
        var plan = Plan(VersionNaming.Today);
        journal.Apply(plan);
        var after = _session.Inventory();
        Assert.Equal(["261020 Net Mender.otio", "Older documents/261014 Net Mender.otio"], after.Documents.Select(d => Path.GetRelativePath(_session.Folder, d.Path)));
        Assert.Equal("261020 Net Mender", after.Document!.Name);
        var file = Assert.Single(after.Files);
        Assert.Equal((Core.Inventory.Standing.Inside, 1), (file.Standing, file.PlacedTimes));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    [Fact]
    public void WithoutPuttingAwayBothStandAtTheTopAndTheNewOneIsCurrent()
    {
        _session.Save();
        File.SetLastWriteTimeUtc(_session.DocumentPath, DateTime.UtcNow.AddDays(-1));
        new MemoryJournal().Apply(Plan(VersionNaming.NextNumber, archiveOlder: false));
        Assert.Equal("261014 Net Mender v2.otio", Path.GetFileName(_session.Inventory().Current!.Path));
        Assert.Equal(2, SessionFolder.Documents(_session.Folder).Count);
    }

    [Fact]
    public void FurtherVersionsOfOneDayAreNumbered()
    {
        _session.Save();
        var journal = new MemoryJournal();
        foreach (var expected in new[] { "261020 Net Mender", "261020 Net Mender v2", "261020 Net Mender v3" })
        {
            // The one before stays at the top level, under its name.
            journal.Apply(Plan(VersionNaming.Today, archiveOlder: false));
            Assert.Equal(expected + ".otio", Path.GetFileName(_session.Inventory().Current!.Path));
        }
        Assert.Equal(4, SessionFolder.Documents(_session.Folder).Count);
    }

    [Fact]
    public void ADocumentThatChangesBeforeItIsPutAwayStaysWhereItIs()
    {
        _session.Save();
        var plan = Plan(VersionNaming.Today);
        var text = File.ReadAllText(_session.DocumentPath);
        File.WriteAllText(_session.DocumentPath, text.Replace("261014", "261015", StringComparison.Ordinal));
        var before = Tree.Of(_session.Folder);
        Assert.Throws<PlanRefusedException>(() => new MemoryJournal().Apply(plan));
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    /// <summary>Without putting away, the older document stays where it is: what is saved into it meanwhile must be in the new one too.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void ASaveBetweenPlanAndVersionIsNotLostToTheNewOne(bool archiveOlder)
    {
        _session.Save();
        var plan = Plan(VersionNaming.NextNumber, archiveOlder);
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), "Cello").Save();
        var before = Tree.Of(_session.Folder);
        var refused = Assert.Throws<PlanRefusedException>(() => new MemoryJournal().Apply(plan));
        Assert.Equal((FaultCode.SourceChanged, _session.DocumentPath), Assert.Single(refused.Reasons) is var reason ? (reason.Code, reason.Path) : default);
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    /// <summary>
    /// Another program's document is started anew byte for byte; its older ones are put away, and the document that a second program
    /// works in beside it stays where it is.
    /// </summary>
    [Fact]
    public void ADocumentOfAnotherProgramIsStartedAnewByteForByte()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        byte[] bytes = [.. "skiff\0\u0001Audio/Cello 01.wav\0"u8];
        foreach (var (name, day) in new[] { ("Net Mender.skiff", 14), ("Net Mender old.skiff", 12), ("Net Mender.loft", 13) })
        {
            File.WriteAllBytes(_session.Inside(name), bytes);
            File.SetLastWriteTimeUtc(_session.Inside(name), new DateTime(2026, 10, day, 20, 0, 0, DateTimeKind.Utc));
        }
        new MemoryJournal().Apply(Plan(VersionNaming.Today));
        var inventory = _session.Inventory();
        Assert.Equal((_session.Inside("261020 Net Mender.skiff"), true), (inventory.Current!.Path, inventory.CurrentIsStated));
        Assert.Equal(bytes, File.ReadAllBytes(inventory.Current.Path));
        Assert.Equal([_session.Inside("Net Mender.loft")], inventory.Documents.Where(d => d.CountsNow).Select(d => d.Path));
        Assert.Equal(["261020 Net Mender.skiff", "Net Mender.loft", "Older documents/Net Mender old.skiff", "Older documents/Net Mender.skiff"],
            inventory.Documents.Select(d => Path.GetRelativePath(_session.Folder, d.Path)).Order(StringComparer.Ordinal));
    }

    /// <summary>Its name carries the date of the first day, whose hour the older one has: the version that was stated counts, and the older one no more.</summary>
    [Fact]
    public void TheDateInANameMakesNoOlderVersionCount()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        File.WriteAllBytes(_session.Inside("261014 Net Mender.skiff"), [.. "skiff\0\u0001Audio/Cello 01.wav\0"u8]);
        File.SetLastWriteTimeUtc(_session.Inside("261014 Net Mender.skiff"), new DateTime(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc));
        new MemoryJournal().Apply(Plan(VersionNaming.NextNumber, archiveOlder: false));
        var inventory = _session.Inventory();
        Assert.Equal(("261014 Net Mender v2.skiff", 1), (Path.GetFileName(inventory.Current!.Path), Assert.Single(inventory.Files).NamedTimes));
        Assert.DoesNotContain(inventory.Documents, d => d.CountsNow);
    }

    /// <summary>Another machine's clock was ahead: the version that was just started is the current one all the same, and undone, the older is again.</summary>
    [Fact]
    public void AClockThatWasAheadTakesNothingFromANewVersion()
    {
        _session.Save();
        File.SetLastWriteTimeUtc(_session.DocumentPath, DateTime.UtcNow.AddYears(3));
        var (journal, plan) = (new MemoryJournal(), Plan(VersionNaming.NextNumber, archiveOlder: false));
        journal.Apply(plan);
        var inventory = _session.Inventory();
        Assert.Equal(("261014 Net Mender v2.otio", true), (Path.GetFileName(inventory.Current!.Path), inventory.CurrentIsStated));
        Assert.Contains(inventory.Remarks, r => r.Code == FaultCode.NewerDocumentBeside && r.Name == "261014 Net Mender.otio");
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal((_session.DocumentPath, false), (_session.Inventory().Current!.Path, _session.Inventory().CurrentIsStated));
    }

    [Fact]
    public void UndoGivesADocumentItsTimeBack()
    {
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"))).Save();
        var time = new DateTime(2026, 10, 14, 20, 30, 1, DateTimeKind.Utc).AddTicks(1_234_567);
        File.SetLastWriteTimeUtc(_session.DocumentPath, time);
        var (journal, plan) = (new MemoryJournal(), _session.PlanCopyIn());
        journal.Apply(plan);
        Assert.NotEqual(time, File.GetLastWriteTimeUtc(_session.DocumentPath));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(time, File.GetLastWriteTimeUtc(_session.DocumentPath));
    }

    /// <summary>Their files were copied here in another order than they were written in.</summary>
    [Fact]
    public void VersionsAreListedByTheirDatesTheNewestFirst()
    {
        string[] names = ["Net Mender 2026-10-20_221100", "Net Mender 2026-10-19_220000", "Net Mender 2026-10-19", "Net Mender 2025-12-31_235959"];
        foreach (var (name, age) in names.Zip([0, 3, 2, 1]))
        {
            _session.Save(_session.Inside("Older documents", name + ".otio"));
            File.SetLastWriteTimeUtc(_session.Inside("Older documents", name + ".otio"), new DateTime(2026, 11, 1, age, 0, 0, DateTimeKind.Utc));
        }
        _session.Save();
        var listed = _session.Inventory().Documents;
        Assert.Equal(names.Prepend(SessionFixture.Name), listed.Select(d => Path.GetFileNameWithoutExtension(d.Path)));
        Assert.Equal(new DateTime(2026, 10, 19, 22, 0, 0), listed[2].Dated);
        // The same without a card and without "Older documents", where the newest is the current one.
        foreach (var name in names)
        {
            File.Move(_session.Inside("Older documents", name + ".otio"), _session.Inside(name + ".otio"));
        }
        File.Delete(_session.DocumentPath);
        Assert.Equal(names, SessionFolder.Documents(_session.Folder).Select(Path.GetFileNameWithoutExtension));
    }

    /// <summary>The disk as a power cut would leave it at every entry of the journal leads to before or after.</summary>
    [Fact]
    public void ACutWhileDocumentsMoveLeadsToBeforeOrAfter()
    {
        _session.Save();
        var plan = Plan(VersionNaming.Today);
        var before = Tree.Of(_session.Folder).Keys.ToList();
        using var kept = new TempFolder();
        var moments = new List<MemoryJournal>();
        var journal = new MemoryJournal();
        journal.Moment = () =>
        {
            Tree.Copy(_session.Folder, Path.Combine(kept.Path, $"{moments.Count}"));
            moments.Add(journal.Copy());
        };
        journal.Apply(plan);
        var after = Tree.Of(_session.Folder).Keys.ToList();
        for (var n = 0; n < moments.Count; n++)
        {
            Tree.Restore(Path.Combine(kept.Path, $"{n}"), _session.Folder);
            Assert.DoesNotContain(moments[n].Recover(), r => r.Problem is not null);
            var now = Tree.Of(_session.Folder).Keys.ToList();
            Assert.True(now.SequenceEqual(before) || now.SequenceEqual(after), $"Moment {n}: {string.Join(", ", now)}");
        }
    }
}
