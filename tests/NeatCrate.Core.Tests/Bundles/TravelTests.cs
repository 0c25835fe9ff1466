using System.Text;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Bundles;

/// <summary>A bundle is opened on machines that are not ours, by tools that are not ours: GNU sha512sum and Info-ZIP's unzip look at it here.</summary>
public sealed class TravelTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private string Pack(DateTimeOffset? now = null, string? folder = null)
    {
        var plan = BundlePlanner.Plan(new BundleRequest(
            _session.SessionId, _session.Inventory(folder), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, now ?? new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2))));
        new MemoryJournal().Apply(plan);
        return plan.Steps[0].Destination;
    }

    private string Unpack(string bundle)
    {
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, Path.GetRandomFileName())).FullName;
        Tool.Run("unzip", "-q", bundle, "-d", folder);
        var bag = Assert.Single(Directory.GetDirectories(folder));
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt");
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "tagmanifest-sha512.txt");
        return bag;
    }

    [Theory]
    [InlineData("100% Net Mender", "100- Net Mender")]
    [InlineData("Net%20Mender%", "Net-20Mender-")]
    [InlineData("Me\u0301nder", "Ménder")]
    [InlineData("Net: Mender?", "Net Mender")]
    public void AFolderNameTravelsAsTheManifestNamesIt(string name, string expected)
    {
        var folder = Directory.CreateDirectory(Path.Combine(_session.Drive, name)).FullName;
        _session.Place("Cello 01.wav", url: "Audio/Cello%2001.wav").Save(Path.Combine(folder, name + ".otio"));
        SessionFixture.Sound(Path.Combine(folder, "Audio", "Cello 01.wav"));
        var there = Path.Combine(Unpack(Pack(folder: folder)), "data", expected);
        Assert.Equal((Standing.Inside, 1), (Assert.Single(_session.Inventory(there).Files).Standing, _session.Inventory(there).Files[0].PlacedTimes));
    }

    [Fact]
    public void ADecomposedNameTravelsComposedAndIsPointedAtAsThat()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Te\u0301nor.wav"))).Save();
        var there = _session.Inventory(Path.Combine(Unpack(Pack()), "data", SessionFixture.Name));
        var file = Assert.Single(there.Files);
        Assert.Equal(("Ténor.wav", Standing.Inside, 1), (file.Name, file.Standing, file.PlacedTimes));
        Assert.True(file.Name.IsNormalized(NormalizationForm.FormC));
    }

    /// <summary>Keepers and notes stand in the document, and so the one who opens the bundle reads them.</summary>
    [Fact]
    public void KeepersAndNotesTravel()
    {
        var take = SessionFixture.Sound(_session.Inside("Audio", "Cello 03.wav"));
        _session.Save();
        new MemoryJournal().Apply(Core.Record.TakeLogPlanner.Plan(
            _session.SessionId, _session.Inventory(), _session.Shelves, new HashSet<string>(), [new Core.Record.TakeChange(take, IsKeeper: true, Note: "breath before the bridge")]));
        var there = _session.Inventory(Path.Combine(Unpack(Pack()), "data", SessionFixture.Name));
        Assert.Equal((true, "breath before the bridge"), Assert.Single(there.Files).ListedTake is { } label ? (label.IsKeeper, label.Note) : default);
    }

    [Fact]
    public void ModesTravel()
    {
        _session.Save();
        File.WriteAllText(_session.Inside("open me.sh"), "#!/bin/sh\n");
        File.SetUnixFileMode(_session.Inside("open me.sh"), (UnixFileMode)0b111_101_101);
        File.WriteAllText(_session.Inside("private.txt"), "x");
        File.SetUnixFileMode(_session.Inside("private.txt"), (UnixFileMode)0b110_000_000);
        var there = Path.Combine(Unpack(Pack()), "data", SessionFixture.Name);
        Assert.Equal(["755 open me.sh", "600 private.txt"], Tool.RunIn(there, "stat", "-c", "%a %n", "open me.sh", "private.txt").Trim().Split('\n'));
    }

    /// <summary>APPNOTE 4.4.6 knows local time only; the extended timestamp says it in UTC, so it is the same in every zone.</summary>
    [Theory]
    [InlineData("Pacific/Auckland")]
    [InlineData("America/Los_Angeles")]
    public void TimesAreTheSameInEveryZone(string zone)
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 7)).Save();
        var folder = Directory.CreateDirectory(Path.Combine(_session.Root, "zone")).FullName;
        Tool.Run("env", "TZ=" + zone, "unzip", "-q", Pack(), "-d", folder);
        var cello = Assert.Single(Directory.GetFiles(folder, "Cello 01.wav", SearchOption.AllDirectories));
        Assert.Equal(File.GetLastWriteTimeUtc(_session.Inside("Audio", "Cello 01.wav")), File.GetLastWriteTimeUtc(cello));
    }

    [Theory]
    [InlineData(1971)]
    [InlineData(2150)]
    public void AClockOutsideTheTimesOfZipFilesStopsNoBundle(int year)
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"))).Save();
        File.SetLastWriteTimeUtc(_session.Inside("Audio", "Cello 01.wav"), new DateTime(year, 5, 1, 0, 0, 0, DateTimeKind.Utc));
        var bundle = Pack(new DateTimeOffset(year, 5, 1, 0, 0, 0, TimeSpan.Zero));
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
        Unpack(bundle);
    }

    [Fact]
    public void EmptyFoldersTravelAndWhatSystemsLeaveBehindDoesNot()
    {
        _session.Save();
        Directory.CreateDirectory(_session.Inside("Lyrics", "to do"));
        foreach (var litter in new[] { ".DS_Store", "Audio/._Cello 01.wav", "Thumbs.db", ".git/config", "Audio/$RECYCLE.BIN/x.wav" })
        {
            Directory.CreateDirectory(Path.GetDirectoryName(_session.Inside(litter))!);
            File.WriteAllText(_session.Inside(litter), "x");
        }
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        var bag = Unpack(Pack());
        var there = Path.Combine(bag, "data", SessionFixture.Name);
        Assert.True(Directory.Exists(Path.Combine(there, "Lyrics", "to do")));
        Assert.Equal(["261014 Net Mender.otio", "Audio/Cello 01.wav"],
            Directory.GetFiles(there, "*", new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = 0 }).Select(f => Path.GetRelativePath(there, f)).Order(StringComparer.Ordinal));
        Assert.Contains("3 files that systems leave behind", File.ReadAllText(Path.Combine(bag, "packing-slip.txt")), StringComparison.Ordinal);
    }

    /// <summary>Looked at by Info-ZIP's unzip and by Python's zipfile, which read every entry.</summary>
    [Fact]
    public void AnEmptyFileIsNoDamage()
    {
        _session.Save();
        File.WriteAllText(_session.Inside("empty.txt"), "");
        var bundle = Pack();
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
        Assert.Contains("None", Tool.Run("python3", "-c", $"import zipfile; print(zipfile.ZipFile('{bundle}').testzip())"), StringComparison.Ordinal);
    }

    [Fact]
    public void TheDocumentThatIsStatedAsCurrentIsStatedThereToo()
    {
        _session.Save();
        _session.Save(_session.Inside("Net Mender: rough?.otio"));
        File.WriteAllBytes(SessionCard.PathIn(_session.Folder), SessionCard.Stating(_session.Folder, "Net Mender: rough?.otio"));
        var there = _session.Inventory(Path.Combine(Unpack(Pack()), "data", SessionFixture.Name));
        Assert.Equal(("Net Mender rough.otio", true), (Path.GetFileName(there.Current!.Path), there.CurrentIsStated));
    }
}
