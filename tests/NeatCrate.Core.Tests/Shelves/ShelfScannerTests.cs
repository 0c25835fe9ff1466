using System.Globalization;
using System.Text;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Shelves;

public sealed class ShelfScannerTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly MemoryCatalogue _catalogue = new();
    private readonly string _shelf;

    public ShelfScannerTests() => _shelf = _temp.Folder("shelf");

    public void Dispose() => _temp.Dispose();

    private ScanResult Scan(params string[] others) =>
        ShelfScanner.Scan(_shelf, others.ToHashSet(), _catalogue, null, TestContext.Current.CancellationToken);

    private string Sound(string path, int seed = 1, int samples = 480) => SessionFixture.Sound(Path.Combine(_shelf, path), samples, seed: seed);

    [Fact]
    public void EveryFileIsFoundWithWhatFindTellsOfIt()
    {
        for (var n = 0; n < 40; n++)
        {
            Sound($"set {n % 7}/{n % 3}/hit {n}.wav", n, 100 + n);
        }
        File.WriteAllText(Path.Combine(_shelf, "readme.txt"), "a");
        File.SetLastWriteTimeUtc(Path.Combine(_shelf, "readme.txt"), new DateTime(2026, 11, 1, 8, 0, 0, 500, DateTimeKind.Utc));
        Directory.CreateDirectory(Path.Combine(_shelf, "empty"));
        var result = Scan();
        // GNU findutils: size, time of change in seconds with its fraction, inode, path from the top.
        var told = Tool.Run("find", _shelf, "-type", "f", "-printf", "%s %T@ %i %P\\n").Split('\n', StringSplitOptions.RemoveEmptyEntries).Order(StringComparer.Ordinal);
        Assert.Equal(told, _catalogue.All.Select(f => Line(f.Key, f.Value.File)).Order(StringComparer.Ordinal));
        Assert.Equal((41, _catalogue.All.Values.Sum(f => f.File.Bytes), 41), (result.Files, result.Bytes, result.Changed));
        Assert.Equal(int.Parse(Tool.Run("sh", "-c", $"find '{_shelf}' -type d | wc -l"), CultureInfo.InvariantCulture), result.Folders);
        Assert.Equal(139, _catalogue.All["set 4/0/hit 39.wav"].Sound!.LengthSamples);
        Assert.Equal((null, null), (_catalogue.All["readme.txt"].Kind, _catalogue.All["readme.txt"].Problem));
    }

    private static string Line(string path, FolderFile file) => string.Create(
        CultureInfo.InvariantCulture, $"{file.Bytes} {(file.ModifiedUtc - DateTime.UnixEpoch).Ticks / TimeSpan.TicksPerSecond}.{file.ModifiedUtc.Ticks % TimeSpan.TicksPerSecond:0000000}000 {file.Inode} {path}");

    [Fact]
    public void ASecondScanReadsOnlyWhatChangedBySizeTimeOrNumber()
    {
        var (size, time, number, same) = (Sound("a/size.wav", 1), Sound("a/time.wav", 2), Sound("b/number.wav", 3), Sound("b/same.wav", 4));
        Sound("c/gone.wav", 5);
        Sound("d/e/deep.wav", 6);
        Scan();
        Assert.Equal(6, _catalogue.TakeRead().Length);
        Assert.Equal(0, Scan().Changed);
        Assert.Empty(_catalogue.TakeRead());

        File.AppendAllText(size, "x");
        File.SetLastWriteTimeUtc(time, new DateTime(2026, 11, 1, 0, 0, 0, DateTimeKind.Utc));
        // Another file takes the place of the first, as long as it and of the same time.
        var changed = File.GetLastWriteTimeUtc(number);
        File.Copy(same, number + ".new");
        File.Move(number + ".new", number, overwrite: true);
        File.SetLastWriteTimeUtc(number, changed);
        File.Delete(Path.Combine(_shelf, "c/gone.wav"));
        Directory.Move(Path.Combine(_shelf, "d"), Path.Combine(_shelf, "f"));
        var result = Scan();
        Assert.Equal(["a/size.wav", "a/time.wav", "b/number.wav", "f/e/deep.wav"], _catalogue.TakeRead());
        Assert.Equal((4, 2), (result.Changed, result.Gone));
        Assert.Equal(["a/size.wav", "a/time.wav", "b/number.wav", "b/same.wav", "f/e/deep.wav"], _catalogue.All.Keys.Order(StringComparer.Ordinal));
    }

    /// <summary>A card that is connected anew: other numbers, another mount point, and the same files.</summary>
    [Fact]
    public void ADriveThatIsConnectedAnewReadsNoHeaderAgain()
    {
        Sound("a/one.wav", 1);
        Sound("a/two.wav", 2);
        Sound("b/alone.wav", 3);
        Scan();
        Assert.Equal(3, _catalogue.TakeRead().Length);
        var before = _catalogue.All.ToDictionary(f => f.Key, f => f.Value);
        var elsewhere = Path.Combine(_temp.Path, "mounted elsewhere");
        // GNU coreutils: everything as it was, under numbers of its own.
        Tool.Run("cp", "-a", _shelf, elsewhere);
        var result = ShelfScanner.Scan(elsewhere, new HashSet<string>(), _catalogue, null, TestContext.Current.CancellationToken);
        Assert.Equal((3, 0, 0), (result.Files, result.Changed, result.Gone));
        Assert.Empty(_catalogue.TakeRead());
        Assert.All(_catalogue.All, f => Assert.NotEqual(before[f.Key].File.Inode, f.Value.File.Inode));
        Assert.All(_catalogue.All, f => Assert.Equal(before[f.Key].Sound, f.Value.Sound));
        // The new numbers are known from then on: one file that takes another's place is seen.
        File.Copy(Path.Combine(elsewhere, "a", "two.wav"), Path.Combine(elsewhere, "x"));
        File.SetLastWriteTimeUtc(Path.Combine(elsewhere, "x"), File.GetLastWriteTimeUtc(Path.Combine(elsewhere, "a", "one.wav")));
        File.Move(Path.Combine(elsewhere, "x"), Path.Combine(elsewhere, "a", "one.wav"), overwrite: true);
        ShelfScanner.Scan(elsewhere, new HashSet<string>(), _catalogue, null, TestContext.Current.CancellationToken);
        Assert.Equal(["a/one.wav"], _catalogue.TakeRead());
    }

    [Fact]
    public void LinksAreNotFollowedWhetherTheyLoopOrLeadOut()
    {
        var outside = _temp.Folder("outside");
        SessionFixture.Sound(Path.Combine(outside, "secret.wav"));
        Sound("a/drum.wav");
        Directory.CreateSymbolicLink(Path.Combine(_shelf, "a", "up"), _shelf);
        Directory.CreateSymbolicLink(Path.Combine(_shelf, "out"), outside);
        File.CreateSymbolicLink(Path.Combine(_shelf, "one.wav"), Path.Combine(outside, "secret.wav"));
        File.CreateSymbolicLink(Path.Combine(_shelf, "self.wav"), Path.Combine(_shelf, "self.wav"));
        Scan();
        Assert.Equal("a/drum.wav", Assert.Single(_catalogue.All).Key);
    }

    [Fact]
    public void OneFolderInTwoPlacesOfAShelfIsScannedOnce()
    {
        if (Environment.UserName != "root")
        {
            Assert.Skip("Only root can mount.");
        }
        Sound("a/drum.wav");
        var loop = _temp.Folder("shelf", "a", "loop");
        Tool.Run("mount", "--bind", _shelf, loop);
        try
        {
            Assert.Equal(1, Scan().Files);
        }
        finally
        {
            Tool.Run("umount", loop);
        }
    }

    [Fact]
    public void WhatCannotBeReadIsListedWithTheReasonAndStopsNothing()
    {
        Sound("good.wav");
        File.WriteAllText(Path.Combine(_shelf, "broken.wav"), "RIFF");
        File.WriteAllText(Path.Combine(_shelf, "pipe.txt"), "");
        Tool.Run("mkfifo", Path.Combine(_shelf, "pipe.wav"));
        // A name in Latin-1, as an old drive may have it, of a file and of a folder.
        Tool.RunIn(_shelf, "sh", "-c", "printf x > \"$(printf 'br\\374cke.wav')\"; mkdir \"$(printf 'caf\\351')\"");
        var result = Scan();
        Assert.NotNull(_catalogue.All["good.wav"].Sound);
        Assert.Equal((FaultCode.MediaTooShort, "WAV"), _catalogue.All["broken.wav"].Problem is { } f ? (f.Code, f.Name) : default);
        Assert.Equal(FaultCode.NameNotText, _catalogue.All["br\\xFCcke.wav"].Problem!.Code);
        Assert.Equal("caf\\xE9", Assert.Single(result.Problems).Path);
        Assert.False(_catalogue.All.ContainsKey("pipe.wav"));
    }

    [Fact]
    public void AFolderThatCannotBeOpenedKeepsWhatWasKnownOfIt()
    {
        Sound("open/a.wav");
        // A path longer than the system opens (4,096 bytes) is refused to root as well.
        var part = new string('x', 250);
        var shut = string.Join('/', Enumerable.Repeat(part, 17));
        Tool.RunIn(_shelf, "perl", "-e", $"for (1..17) {{ mkdir('{part}') or die; chdir('{part}') or die }}");
        while (Encoding.UTF8.GetByteCount(Path.GetDirectoryName(_shelf + "/" + shut)!) >= 4096)
        {
            shut = Path.GetDirectoryName(shut)!;
        }
        _catalogue.Put(new ScannedFolder(shut + "/deep", 5, null, [new ScannedFile(new FolderFile("c.wav", 1, DateTime.UnixEpoch, 1, true), MediaKind.Audio, null, null)], [], []));
        var problem = Assert.Single(Scan().Problems);
        Assert.Equal((shut, "File name too long."), (problem.Path, problem.Reason.Detail));
        Assert.Equal("File name too long.", _catalogue.Problems[shut].Detail);
        Assert.Equal(["open/a.wav", shut + "/deep/c.wav"], _catalogue.All.Keys.Order(StringComparer.Ordinal));
    }

    private sealed class Blocked(MemoryCatalogue inner, string folder) : ICatalogueScan
    {
        public List<string> Forgotten { get; } = [];

        public IReadOnlyDictionary<string, UInt128> Folders => inner.Folders;

        public IReadOnlyDictionary<string, FolderFile> Files(string path) => path == folder ? throw new InvalidOperationException("not asked for") : inner.Files(path);

        public void Put(ScannedFolder scanned) => inner.Put(scanned);

        public void Forget(IReadOnlyCollection<string> folders) => Forgotten.AddRange(folders);
    }

    [Fact]
    public void ADriveThatIsGoneOrNotMountedTakesNothingFromTheCatalogue()
    {
        Sound("a/drum.wav");
        Scan();
        Directory.Move(_shelf, _shelf + " away");
        Assert.Equal(FaultCode.ScanLostShelf, Assert.Throws<FaultException>(() => Scan()).Fault.Code);
        // The empty place where a drive is mounted otherwise.
        Directory.CreateDirectory(_shelf);
        Assert.Equal(FaultCode.ScanFoundEmptyPlace, Assert.Throws<FaultException>(() => Scan()).Fault.Code);
        Assert.Equal("a/drum.wav", Assert.Single(_catalogue.All).Key);
    }

    [Fact]
    public void WhatTheDriveDidNotGiveIsReadTheNextTime()
    {
        Sound("a/drum.wav");
        Sound("b/bell.wav", 2);
        // The drive leaves between the look at the folders and the reading of headers, and comes back.
        var (here, away) = (Path.Combine(_shelf, "a"), Path.Combine(_temp.Path, "away"));
        ShelfScanner.Scan(
            _shelf,
            new HashSet<string>(),
            _catalogue,
            progress =>
            {
                lock (_catalogue)
                {
                    if (progress is { Phase: ScanPhase.Looking, Files: 2 } && Directory.Exists(here))
                    {
                        Directory.Move(here, away);
                    }
                }
            },
            TestContext.Current.CancellationToken);
        Assert.Equal(FaultCode.NotThere, _catalogue.All["a/drum.wav"].Problem!.Code);
        Directory.Move(away, here);
        _catalogue.TakeRead();
        Scan();
        Assert.Equal(["a/drum.wav"], _catalogue.TakeRead());
        Assert.Null(_catalogue.All["a/drum.wav"].Problem);
        Assert.Equal(480, _catalogue.All["a/drum.wav"].Sound!.LengthSamples);
        Assert.Equal(0, Scan().Changed);
    }

    [Fact]
    public void WhatLiesOnAnotherShelfBelongsToThatOne()
    {
        Sound("a/drum.wav");
        Sound("Vault/backup.wav");
        Scan(Path.Combine(_shelf, "Vault"));
        Assert.Equal("a/drum.wav", Assert.Single(_catalogue.All).Key);
    }

    [Fact]
    public void AScanThatIsCancelledKeepsWhatItFoundAndTheNextGoesOnFromThere()
    {
        for (var n = 0; n < 400; n++)
        {
            Sound($"f{n % 40}/hit {n}.wav", n, 10);
        }
        using var cancel = new CancellationTokenSource();
        Assert.Throws<OperationCanceledException>(() => ShelfScanner.Scan(
            _shelf, new HashSet<string>(), _catalogue, p => (p.Read > 100 ? (Action)cancel.Cancel : () => { })(), cancel.Token));
        var before = _catalogue.TakeRead().Length;
        Assert.InRange(before, 1, 399);
        Assert.Equal(400 - before, Scan().Changed);
        Assert.Equal(400, _catalogue.All.Count);
        Assert.All(_catalogue.All.Values, f => Assert.NotNull(f.Sound));
    }

    [Fact]
    public void ProgressCountsUpToWhatThereIsToRead()
    {
        for (var n = 0; n < 300; n++)
        {
            Sound($"hit {n}.wav", n, 10);
        }
        var told = new System.Collections.Concurrent.ConcurrentBag<ScanProgress>();
        ShelfScanner.Scan(_shelf, new HashSet<string>(), _catalogue, told.Add, TestContext.Current.CancellationToken);
        var reading = told.Where(p => p.Phase == ScanPhase.Reading).ToList();
        Assert.All(reading, p => Assert.Equal(300, p.ToRead));
        Assert.Equal(300, reading.Max(p => p.Read));
        Assert.Contains(told, p => p is { Phase: ScanPhase.Looking, Files: 300 });
    }

    [Fact]
    public void AnErrorOfTheCatalogueEndsTheScanAndComesOutAsItIs()
    {
        Sound("shut/a.wav");
        Sound("b/b.wav");
        Scan();
        File.AppendAllText(Path.Combine(_shelf, "shut", "a.wav"), "x");
        Assert.Equal("not asked for", Assert.Throws<InvalidOperationException>(() => ShelfScanner.Scan(
            _shelf, new HashSet<string>(), new Blocked(_catalogue, "shut"), null, TestContext.Current.CancellationToken)).Message);
    }
}
