using System.Text;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Backups;

public sealed class KeptDocumentsTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly string _document;

    public KeptDocumentsTests() => _document = _temp.At("session", "261019 Fog Signal.otio");

    private string Session => Path.GetDirectoryName(_document)!;

    [Fact]
    public void EachStateIsKeptOnceUnderItsTime()
    {
        var kept = Kept("Document backups");
        Save("one", 1);
        Assert.True(kept.TryKeep(_document, null, out var first));
        Assert.True(kept.TryKeep(_document, null, out var again));
        Save("two", 2);
        kept.TryKeep(_document, null, out _);
        // The same as the first once more, at another time: it is kept already.
        Save("one", 3);
        kept.TryKeep(_document, null, out var third);
        Assert.Equal(first, again);
        Assert.Equal(first, third);
        Assert.Equal([$"261019 Fog Signal {Stamp(1)}.otio", $"261019 Fog Signal {Stamp(2)}.otio"], kept.All().Select(k => k.Name));
        Assert.Equal("one", File.ReadAllText(kept.PathOf(first!.Name)));
        Assert.Equal(Time(1), File.GetLastWriteTimeUtc(kept.PathOf(first.Name)));
    }

    [Fact]
    public void TwoStatesOfOneSecondAreBothKept()
    {
        var kept = Kept("Document backups");
        Save("one", 1);
        kept.TryKeep(_document, null, out _);
        Save("two", 1);
        kept.TryKeep(_document, null, out var second);
        Assert.Equal($"261019 Fog Signal {Stamp(1)} (2).otio", second!.Name);
        Assert.Equal(["one", "two"], kept.All().Select(k => File.ReadAllText(kept.PathOf(k.Name))));
    }

    /// <summary>As the watch does it: kept in the own place first, brought into the session, and let go from the own. Of states of one second, as long as each other, none is lost and none is there twice.</summary>
    [Fact]
    public void StatesOfOneSecondAreKeptOnceOverTwoPlaces()
    {
        var (own, inSession) = (Kept("own"), Kept("Document backups"));
        string[] texts = ["one", "two", "six", "ten", "two hundred"];
        foreach (var text in texts)
        {
            Save(text, 1);
            Assert.True(own.TryKeep(_document, null, out _, inSession, inSession));
            inSession.CatchUp(own, TestContext.Current.CancellationToken);
            own.LetGo(inSession);
        }
        // Whatever a place that was behind had named otherwise is not brought a second time.
        File.Move(inSession.PathOf($"261019 Fog Signal {Stamp(1)} (5).otio"), Path.Combine(inSession.Folder, $"261019 Fog Signal {Stamp(1)} (9).otio"));
        Assert.Equal(0, inSession.CatchUp(own, TestContext.Current.CancellationToken));
        Assert.Equal(texts, inSession.All().Select(k => File.ReadAllText(inSession.PathOf(k.Name))));
    }

    /// <summary>A kept state is changed, cut, swapped or made something else by whoever: it counts as not there, comes back from the other place, and what stood there by then stays.</summary>
    [Theory]
    [InlineData("emptied")]
    [InlineData("cut")]
    [InlineData("written over")]
    [InlineData("swapped")]
    [InlineData("link")]
    [InlineData("folder")]
    public void WhatIsNoLongerWhatWasKeptIsToldAndComesBack(string damage)
    {
        var (inSession, second) = (Kept("Document backups"), Kept("second"));
        string[] texts = ["the first", "the other", "the third one"];
        foreach (var (n, text) in texts.Index())
        {
            Save(text, n);
            inSession.TryKeep(_document, null, out _);
        }
        second.CatchUp(inSession, TestContext.Current.CancellationToken);
        foreach (var (damaged, whole) in new[] { (inSession, second), (second, inSession) })
        {
            var path = damaged.PathOf(damaged.All()[0].Name);
            Damage(path, damage, damaged.PathOf(damaged.All()[1].Name));
            var left = damage == "swapped" ? 1 : 2;
            Assert.Equal(texts[^left..], damaged.All().Select(k => File.ReadAllText(damaged.PathOf(k.Name))));
            Assert.Equal(3 - left, damaged.Look().Changed.Length);
            // Whoever begins anew, with nothing in memory, knows it as well.
            Assert.Equal(3 - left, Kept(Path.GetFileName(damaged.Folder)).Look().Changed.Length);
            // What the other place has instead of it is no reason to let that one go, or to bring the wrong one there.
            Assert.Equal(0, whole.CatchUp(damaged, TestContext.Current.CancellationToken));
            Assert.Equal(3 - left, damaged == second ? damaged.CatchUp(whole, TestContext.Current.CancellationToken) : damaged.Heal(whole));
            Assert.Equal(texts, damaged.All().Select(k => File.ReadAllText(damaged.PathOf(k.Name))));
            Assert.Empty(damaged.Look().Changed);
            Assert.Equal(3 - left, Directory.GetFileSystemEntries(damaged.Folder, "*.changed").Length);
            Assert.Equal(0, damaged.Heal(whole));
        }
        Assert.Equal("somebody's", File.ReadAllText(_temp.At("somebody's.txt")));
    }

    private void Damage(string path, string damage, string neighbour)
    {
        File.WriteAllText(_temp.At("somebody's.txt"), "somebody's");
        var text = File.ReadAllText(path);
        if (damage is "link" or "folder" or "swapped")
        {
            File.Move(path, _temp.At("aside"), overwrite: true);
        }
        switch (damage)
        {
            case "emptied":
                File.WriteAllText(path, "");
                break;
            case "cut":
                File.WriteAllText(path, text[..4]);
                break;
            case "written over":
                File.WriteAllText(path, new string('x', text.Length));
                break;
            case "swapped":
                File.Move(neighbour, path);
                File.Move(_temp.At("aside"), neighbour);
                break;
            case "link":
                File.CreateSymbolicLink(path, _temp.At("somebody's.txt"));
                break;
            default:
                Directory.CreateDirectory(path);
                break;
        }
    }

    /// <summary>A folder that was copied has other times, and holds what it held.</summary>
    [Fact]
    public void AnotherTimeAloneMakesNoOtherState()
    {
        var kept = Kept("Document backups");
        Save("one", 1);
        kept.TryKeep(_document, null, out var state);
        File.SetLastWriteTimeUtc(kept.PathOf(state!.Name), DateTime.UtcNow);
        Assert.Empty(kept.Look().Changed);
        Assert.Equal([state.Name], kept.All().Select(k => k.Name));
        Assert.True(kept.TryKeep(_document, null, out var again));
        Assert.Equal(state, again);
    }

    /// <summary>What tells how states were kept is gone, cut or something else: no state is lost or doubted by it, and it is there again with the next one.</summary>
    [Theory]
    [InlineData("emptied")]
    [InlineData("cut")]
    [InlineData("written over")]
    [InlineData("link")]
    [InlineData("folder")]
    public void WithoutItsListAFolderHoldsWhatItHolds(string damage)
    {
        var kept = Kept("Document backups");
        Save("one", 1);
        kept.TryKeep(_document, null, out _);
        var list = Path.Combine(kept.Folder, ".neat-crate-kept.json");
        Damage(list, damage, list);
        Assert.Single(kept.All());
        Assert.Empty(kept.Look().Changed);
        Save("two", 2);
        kept.TryKeep(_document, null, out var second);
        Assert.Equal(["one", "two"], kept.All().Select(k => File.ReadAllText(kept.PathOf(k.Name))));
        Assert.Contains(second!.Name, File.ReadAllText(list), StringComparison.Ordinal);
        File.WriteAllText(kept.PathOf(second.Name), "owt");
        Assert.Equal([second.Name], kept.Look().Changed);
        Assert.Equal("somebody's", File.ReadAllText(_temp.At("somebody's.txt")));
    }

    /// <summary>States from before there were lists come onto one as they are read.</summary>
    [Fact]
    public void StatesWithoutAListComeOntoOne()
    {
        foreach (var (n, text) in new List<string> { "one", "two" }.Index())
        {
            Save(text, n);
            Kept("Document backups").TryKeep(_document, null, out _);
        }
        var kept = Kept("Document backups");
        File.Delete(Path.Combine(kept.Folder, ".neat-crate-kept.json"));
        Assert.All(kept.All(), k => kept.IdentityOf(k));
        Save("three", 3);
        kept.TryKeep(_document, null, out _);
        var first = kept.PathOf(kept.All()[0].Name);
        File.WriteAllText(first, "eno");
        Assert.Equal([Path.GetFileName(first)], kept.Look().Changed);
    }

    /// <summary>No document has a terabyte: reading one would hold up all that are.</summary>
    [Fact]
    public void WhatIsLargerThanAnyDocumentIsNotRead()
    {
        using (var huge = File.Create(_document))
        {
            huge.SetLength(1L << 40);
        }
        Assert.Equal(FaultCode.DocumentTooLarge, Assert.Throws<FaultException>(() => Kept("Document backups").TryKeep(_document, null, out _)).Fault.Code);
    }

    /// <summary>The same size and the same time are no proof: before the last copy goes, both are read.</summary>
    [Fact]
    public void WhatGoesIsComparedByReading()
    {
        var (own, inSession) = (Kept("own"), Kept("Document backups"));
        string[] texts = ["one", "two"];
        foreach (var (n, text) in texts.Index())
        {
            Save(text, n);
            own.TryKeep(_document, null, out _);
        }
        inSession.CatchUp(own, TestContext.Current.CancellationToken);
        var path = inSession.PathOf(inSession.All()[0].Name);
        var time = File.GetLastWriteTimeUtc(path);
        File.WriteAllText(path, "eno");
        File.SetLastWriteTimeUtc(path, time);
        own.LetGo(inSession);
        Assert.Equal(texts, own.All().Select(k => File.ReadAllText(own.PathOf(k.Name))));
    }

    /// <summary>A save whose time was put back stands last all the same, and one from the future where it was seen.</summary>
    [Fact]
    public void WhatWasSavedLastStandsLast()
    {
        var kept = Kept("Document backups");
        foreach (var (text, second) in new[] { ("one", 1), ("two", 30), ("put back", 2) })
        {
            Save(text, second);
            kept.TryKeep(_document, null, out _);
        }
        File.WriteAllText(_document, "ahead");
        File.SetLastWriteTimeUtc(_document, DateTime.UtcNow.AddDays(400));
        kept.TryKeep(_document, null, out var ahead);
        Assert.Equal(["one", "two", "put back", "ahead"], kept.All().Select(k => File.ReadAllText(kept.PathOf(k.Name))));
        Assert.InRange(ahead!.Saved, DateTime.Now.AddMinutes(-1), DateTime.Now.AddMinutes(1));
    }

    /// <summary>The clock itself goes back two days, and forward again: what was saved last stands last.</summary>
    [Fact]
    public void WhatWasSavedLastStandsLastWhenTheClockGoesBack()
    {
        var clock = new StoppedClock { Now = Time(40) };
        var kept = new KeptDocuments(Path.Combine(Session, "Document backups"), Session, new QuickFiles(), clock);
        foreach (var (text, at) in new[] { ("one", Time(30)), ("two", Time(30).AddDays(-2)), ("three", Time(31).AddDays(-2)), ("four", Time(50)) })
        {
            clock.Now = at;
            File.WriteAllText(_document, text);
            File.SetLastWriteTimeUtc(_document, at);
            kept.TryKeep(_document, null, out _);
        }
        Assert.Equal(["one", "two", "three", "four"], kept.All().Select(k => File.ReadAllText(kept.PathOf(k.Name))));
        Assert.Equal([Time(30), Time(30), Time(30), Time(50)], kept.All().Select(k => k.Saved.ToUniversalTime()));
    }

    /// <summary>Two applications keep one save in one moment, one of them in the middle of the other: it is kept once.</summary>
    [Theory]
    [InlineData("create")]
    [InlineData("rename")]
    public void TwoApplicationsKeepASaveOnce(string call)
    {
        var (other, files) = (Kept("Document backups"), new QuickFiles());
        KeptDocument? others = null;
        files.Before = (now, path) =>
        {
            if (others is null && now == call)
            {
                other.TryKeep(_document, null, out others);
            }
        };
        Save("one", 1);
        Assert.True(Kept("Document backups", files).TryKeep(_document, null, out var kept));
        Assert.NotNull(others);
        Assert.Equal(others, kept);
        Assert.Equal(others, Assert.Single(other.All()));
        Assert.Equal(2, Directory.GetFiles(Path.Combine(Session, "Document backups"), "*", new EnumerationOptions { AttributesToSkip = 0 }).Length);
    }

    /// <summary>Said afterwards, in place of what was said before; a place that was away then hears of it when it catches up, and what holds no such state says nothing.</summary>
    [Fact]
    public void WhatIsSaidAfterwardsGoesAlong()
    {
        var (kept, second) = (Kept("Document backups"), Kept("second"));
        Save("one", 1);
        kept.TryKeep(_document, "a note", out var state);
        second.CatchUp(kept, TestContext.Current.CancellationToken);
        Assert.True(kept.SayOf(state!.Name, " the good one "));
        Assert.Equal(["the good one"], kept.All().Select(k => k.Note));
        Assert.Equal(["a note"], second.All().Select(k => k.Note));
        second.CatchUp(kept, TestContext.Current.CancellationToken);
        Assert.Equal(["the good one"], second.All().Select(k => k.Note));
        Assert.False(second.SayOf("another " + state.Name, "x"));
        Assert.Single(Directory.GetFiles(second.Folder, "*.note.txt"));
        Assert.Throws<ArgumentException>(() => kept.SayOf(state.Name, " "));
    }

    [Fact]
    public void ANoteStandsBesideItAndGoesAlong()
    {
        var (kept, second) = (Kept("Document backups"), Kept("elsewhere/second"));
        Save("one", 1);
        kept.TryKeep(_document, "before the string edits", out var first);
        Assert.Equal("before the string edits", first!.Note);
        Assert.Equal(1, second.CatchUp(kept, CancellationToken.None));
        Assert.Equal(kept.All(), second.All());
        Assert.Equal(0, second.CatchUp(kept, CancellationToken.None));
    }

    /// <summary>A drive that left in the middle of a copy: what it missed is made good when it returns, and what is half is not there.</summary>
    [Fact]
    public void WhatASecondPlaceMissedIsMadeGood()
    {
        var kept = Kept("Document backups");
        for (var n = 1; n <= 4; n++)
        {
            Save($"state {n}", n);
            kept.TryKeep(_document, null, out _);
        }
        var calls = 0;
        var failing = new FaultyFiles { Before = (call, path) => _ = path.Contains("second", StringComparison.Ordinal) && ++calls > 12 ? throw new FaultException(FaultCode.RootGone, path) : 0 };
        Assert.Throws<FaultException>(() => Kept("elsewhere/second", failing).CatchUp(kept, CancellationToken.None));
        var second = Kept("elsewhere/second");
        Assert.InRange(kept.All().Except(second.All()).Count(), 1, 3);
        second.CatchUp(kept, CancellationToken.None);
        Assert.Equal(kept.All(), second.All());
        Assert.DoesNotContain(Directory.EnumerateFiles(second.Folder), f => f.EndsWith(".part", StringComparison.Ordinal));
    }

    [Fact]
    public void ADocumentThatChangesWhileItIsReadIsNotKept()
    {
        Save("one", 1);
        var files = new FaultyFiles { OnRead = (path, _, _) => Append(path) };
        Assert.False(Kept("Document backups", files).TryKeep(_document, null, out _));
        Assert.Empty(Kept("Document backups").All());

        static void Append(string path)
        {
            if (path.EndsWith("Signal.otio", StringComparison.Ordinal))
            {
                File.AppendAllText(path, "more");
            }
        }
    }

    [Fact]
    public void ADriveThatWritesSomethingElseIsFoundOut()
    {
        Save("one", 1);
        var files = new FaultyFiles { OnRead = (path, _, bytes) => bytes.AsSpan(0, path.EndsWith(".part", StringComparison.Ordinal) ? Math.Min(1, bytes.Length) : 0).Fill(0xFF) };
        Assert.Equal(FaultCode.ReadBackDiffers, Assert.Throws<FaultException>(() => Kept("Document backups", files).TryKeep(_document, null, out _)).Fault.Code);
        Assert.Empty(Kept("Document backups").All());
    }

    /// <summary>The power is cut before each call: what is listed afterwards is whole, and the document is untouched.</summary>
    [Fact]
    public void APowerCutLeavesOnlyWholeStates()
    {
        var root = Session;
        for (var call = 0; ; call++)
        {
            DiskTree.Clear(root);
            Save("one", 1);
            Kept("Document backups").TryKeep(_document, null, out _);
            Save("two", 2);
            var files = new PowerCutFiles(root);
            files.CutBefore(call);
            var cut = false;
            try
            {
                new KeptDocuments(Path.Combine(root, "Document backups"), root, files).TryKeep(_document, "a note", out _);
            }
            catch (IOException)
            {
                cut = true;
            }
            files.Lose((Unflushed)(call % 4), call);
            var kept = Kept("Document backups");
            Assert.All(kept.All(), k => Assert.Equal(k.Saved.Second == Time(1).Second ? "one" : "two", File.ReadAllText(kept.PathOf(k.Name))));
            Assert.Contains(kept.All(), k => File.ReadAllText(kept.PathOf(k.Name)) == "one");
            Assert.Equal("two", File.ReadAllText(_document));
            if (!cut)
            {
                Assert.Equal(2, kept.All().Length);
                Assert.True(call > 5);
                return;
            }
        }
    }

    /// <summary>Two states of one second, kept by two machines: as long as each other they are two all the same, whatever they are called, and none is let go for the other.</summary>
    [Fact]
    public void StatesOfOneNameAndLengthAreToldApartByWhatTheyHold()
    {
        var (own, second) = (Kept("own"), Kept("elsewhere/second"));
        Save("state A", 1);
        own.TryKeep(_document, null, out _);
        Save("state B", 1);
        second.TryKeep(_document, null, out _);
        Save("later", 2);
        own.TryKeep(_document, null, out _);
        own.LetGo(second);
        Assert.Equal(["state A", "later"], own.All().Select(k => File.ReadAllText(own.PathOf(k.Name))));
        for (var run = 0; run < 3; run++)
        {
            second.CatchUp(own, CancellationToken.None);
            own.CatchUp(second, CancellationToken.None);
        }
        foreach (var place in new[] { own, second })
        {
            Assert.Equal(["later", "state A", "state B"], place.All().Select(k => File.ReadAllText(place.PathOf(k.Name))).Order());
            // Three states and their list: nothing stands there that nobody lists.
            Assert.Equal(4, Directory.GetFiles(place.Folder).Length);
        }
    }

    /// <summary>While a second place takes its time, what is saved is kept in the other places at once.</summary>
    [Fact]
    public async Task ASlowPlaceHoldsUpNoOther()
    {
        var (own, session) = (Kept("own"), Kept("Document backups"));
        Save("state 1", 1);
        own.TryKeep(_document, null, out _);
        using var goOn = new ManualResetEventSlim();
        using var hangs = new ManualResetEventSlim();
        var slow = new FaultyFiles { Before = (_, _) => { hangs.Set(); goOn.Wait(TestContext.Current.CancellationToken); } };
        var catching = Task.Run(() => Kept("elsewhere/second", slow).CatchUp(own, TestContext.Current.CancellationToken), TestContext.Current.CancellationToken);
        hangs.Wait(TestContext.Current.CancellationToken);
        Save("state 2", 2);
        Assert.True(own.TryKeep(_document, null, out _, session, session));
        Assert.Equal(2, session.CatchUp(own, TestContext.Current.CancellationToken));
        own.LetGo(session);
        goOn.Set();
        Assert.Equal(1, await catching);
        Assert.Equal(["state 1", "state 2"], session.All().Select(k => File.ReadAllText(session.PathOf(k.Name))));
    }

    /// <summary>A name that leaves no room for the time behind it is cut, on a character, and two such documents stay two.</summary>
    [Theory]
    [InlineData("Größe ")]
    [InlineData("𝄞")]
    [InlineData("x")]
    public void ALongNameIsCutByBytes(string part)
    {
        var kept = Kept("Document backups");
        string Long(string end)
        {
            var name = "";
            while (Encoding.UTF8.GetByteCount(name + part + end + ".otio") <= 255)
            {
                name += part;
            }
            return Path.Combine(Path.GetDirectoryName(_document)!, name + end + ".otio");
        }
        foreach (var path in new[] { Long("1"), Long("2") })
        {
            File.WriteAllText(path, path);
            File.SetLastWriteTimeUtc(path, Time(1));
            Assert.True(kept.TryKeep(path, "a note beside it", out var state));
            Assert.Equal(path, File.ReadAllText(kept.PathOf(state!.Name)));
            Assert.DoesNotContain('\uFFFD', state.Name);
        }
        Assert.Equal(2, kept.All().Select(k => k.Document).Distinct().Count());
        Assert.All(kept.All(), k => Assert.Equal("a note beside it", k.Note));
    }

    /// <summary>Our own folder keeps the newest of each document; what no other place holds stays there too.</summary>
    [Fact]
    public void OnlyWhatIsHeldElsewhereIsLetGo()
    {
        var (own, session) = (Kept("own"), Kept("Document backups"));
        for (var n = 1; n <= 3; n++)
        {
            Save($"state {n}", n);
            own.TryKeep(_document, null, out _);
            if (n == 1)
            {
                session.CatchUp(own, CancellationToken.None);
            }
        }
        own.LetGo(session, null);
        Assert.Equal(["state 2", "state 3"], own.All().Select(k => File.ReadAllText(own.PathOf(k.Name))));
        // The newest stays in the own place whoever else has it: the session's folder may go with its drive.
        session.CatchUp(own, CancellationToken.None);
        own.LetGo(session, null);
        Assert.Equal(["state 3"], own.All().Select(k => File.ReadAllText(own.PathOf(k.Name))));
        Assert.Equal(3, session.All().Length);
    }

    [Theory]
    [InlineData("../261019 Fog Signal 2026-10-19_200000.otio")]
    [InlineData("261019 Fog Signal.otio")]
    [InlineData("nothing 2026-10-19_200000.otio")]
    public void WhatIsNoKeptStateIsNotGivenOut(string name) => Assert.Equal(FaultCode.VersionGone, Assert.Throws<FaultException>(() => Kept("Document backups").PathOf(name)).Fault.Code);

    public void Dispose() => _temp.Dispose();

    private sealed class StoppedClock : TimeProvider
    {
        public DateTime Now { get; set; }

        public override DateTimeOffset GetUtcNow() => Now;
    }

    private static DateTime Time(int second) => new(2026, 10, 19, 20, 0, second, DateTimeKind.Utc);

    private static string Stamp(int second) => BackupVault.Stamp(Time(second).ToLocalTime());

    private void Save(string text, int second)
    {
        File.WriteAllText(_document, text);
        File.SetLastWriteTimeUtc(_document, Time(second));
    }

    private KeptDocuments Kept(string folder, IDurableFiles? files = null) => new(Path.Combine(Session, folder), Session, files ?? new QuickFiles());
}
