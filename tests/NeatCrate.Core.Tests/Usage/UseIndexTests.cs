using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Tests.Usage;

public sealed class UseIndexTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private readonly string _other;
    private readonly UseIndex _index;

    public UseIndexTests()
    {
        _other = Path.Combine(_session.Card, "261005 Low Water");
        Directory.CreateDirectory(_other);
        KeptInventory[] sessions = [new(_session.Folder, new HeaderCache()), new(_other, new HeaderCache())];
        _index = new UseIndex(() => sessions.Select(s => new UsingSession(s, null)), () => _session.Shelves, TimeProvider.System);
    }

    public void Dispose() => _session.Dispose();

    private IEnumerable<(string Document, bool IsCurrent, bool IsPlaced, string? Track, string? Clip, SampleRange? Range)> Uses(string path) =>
        _index.UsesOf(new HashSet<string> { path }).Select(u => (u.Shown, u.IsCurrent, u.IsPlaced, u.Track, u.Clip, u.Range));

    private void Other(string path, long start)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("hum", MediaUrl.From(path, _other), 48000, 4800, start, 100));
        File.WriteAllBytes(Path.Combine(_other, "Low Water.otio"), document.ToUtf8());
    }

    [Fact]
    public void EverySessionVersionClipAndRangeIsNamed()
    {
        var sound = SessionFixture.Sound(_session.Inside("Audio", "tide.wav"));
        _session.Place(sound, "Cello", 10, 20).List(sound).Save();
        _session.Save(_session.Inside("Older documents", "261013 Net Mender.otio"));
        _session.Place(sound, "Samples", 1000, 50).Save();
        Other(sound, 7);
        Assert.Equal(
            [
                ("261005 Low Water: Low Water", true, true, "Voice", "hum", new SampleRange(7, 100)),
                ("261014 Net Mender: 261013 Net Mender", false, false, null, null, null),
                ("261014 Net Mender: 261013 Net Mender", false, true, "Cello", "tide.wav", new SampleRange(10, 20)),
                ("261014 Net Mender: 261014 Net Mender", true, false, null, null, null),
                ("261014 Net Mender: 261014 Net Mender", true, true, "Cello", "tide.wav", new SampleRange(10, 20)),
                ("261014 Net Mender: 261014 Net Mender", true, true, "Samples", "tide.wav", new SampleRange(1000, 50)),
            ],
            Uses(sound).OrderBy(u => u.Document, StringComparer.Ordinal).ThenBy(u => u.IsPlaced).ThenBy(u => u.Range?.Start));
        Assert.Empty(Uses(_session.Inside("Audio", "nobody.wav")));
    }

    /// <summary>A session whose drive is away at the start counts as it was remembered, but for documents that are about to be written otherwise.</summary>
    [Fact]
    public void ASessionThatWasNeverLookedAtCountsAsItIsRemembered()
    {
        var sound = SessionFixture.Sound(_session.Inside("Audio", "tide.wav"));
        Other(sound, 7);
        var first = new KeptInventory(_other, new HeaderCache());
        Assert.Null(first.UsedElsewhere);
        first.Look(null, _session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken);
        var memory = new Memory([.. first.UsedElsewhere!]);
        Assert.Equal(sound, Assert.Single(memory.Places).Path);
        Directory.Move(_session.Card, _session.Card + " away");
        var index = new UseIndex(() => [new UsingSession(new KeptInventory(_other, new HeaderCache()), null)], () => _session.Shelves, TimeProvider.System, memory);
        Assert.Equal("261005 Low Water: Low Water", Assert.Single(index.UsesOf(new HashSet<string> { sound })).Shown);
        Assert.Empty(index.UsesOf(new HashSet<string> { sound + "x" }));
        Assert.Empty(index.PointingAt(new HashSet<string> { sound }, new Dictionary<string, byte[]> { [Path.Combine(_other, "Low Water.otio")] = [] }));
        Directory.Move(_session.Card + " away", _session.Card);
        // Once it is there again, it counts as it is.
        File.Delete(Path.Combine(_other, "Low Water.otio"));
        Assert.Empty(index.UsesOf(new HashSet<string> { sound }));
    }

    private sealed record Memory(IReadOnlyList<UsePlace> Places) : IUseMemory
    {
        public IReadOnlyList<UsePlace> Recall(string sessionFolder) => Places;
    }

    /// <summary>A save is known at the next question, and a session whose drive has left counts as it was.</summary>
    [Fact]
    public void ItIsBroughtUpToDateAndRemembersWhatIsAway()
    {
        var sound = SessionFixture.Sound(_session.Inside("Audio", "tide.wav"));
        _session.Save();
        Assert.Empty(Uses(sound));
        Other(sound, 7);
        Assert.Single(Uses(sound));
        Other(sound, 9);
        Assert.Equal(new SampleRange(9, 100), Assert.Single(Uses(sound)).Range);
        Directory.Move(_session.Card, _session.Card + " away");
        Assert.Equal("261005 Low Water: Low Water", Assert.Single(Uses(sound)).Document);
        Directory.Move(_session.Card + " away", _session.Card);
        File.Delete(Path.Combine(_other, "Low Water.otio"));
        Assert.Empty(Uses(sound));
    }

    /// <summary>What an undo writes back counts as written already.</summary>
    [Fact]
    public void ADocumentThatIsRewrittenCountsAsItWillBe()
    {
        var sound = SessionFixture.Sound(_session.Inside("Audio", "tide.wav"));
        var without = _session.Document.ToUtf8();
        _session.Place(sound).Save();
        var paths = new HashSet<string> { sound };
        Assert.Single(_index.PointingAt(paths, new Dictionary<string, byte[]>()));
        Assert.Empty(_index.PointingAt(paths, new Dictionary<string, byte[]> { [_session.DocumentPath] = without }));
        File.WriteAllBytes(_session.DocumentPath, without);
        var with = _session.Place(sound).Document.ToUtf8();
        Assert.Single(_index.PointingAt(paths, new Dictionary<string, byte[]> { [_session.DocumentPath] = with }));
    }
}
