using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Relink;

public sealed class PlaceSearchTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private static LostFile Lost(string path)
    {
        var (state, header) = (FileState.Of(path), MediaHeaderReader.ReadFile(path)!);
        var noted = PlaceSearch.Read(path, new FreshIdentities(), TestContext.Current.CancellationToken);
        var lost = new LostFile(path, new KnownFile(state.Bytes, state.ModifiedUtc, header.Container, header.SampleRate, 1, 24, header.LengthSamples), noted, null, null, "/sessions/one");
        return lost;
    }

    /// <summary>By its name, renamed, and turned into another format under another name: each is found, and what only looks alike is not certain.</summary>
    [Fact]
    public void NamesThenHeadersThenContent()
    {
        var cancel = TestContext.Current.CancellationToken;
        string Sound(string name, int samples, int seed) => SessionFixture.Sound(Path.Combine(_temp.Path, name), samples, seed: seed);
        LostFile[] lost = [Lost(Sound("was/named.wav", 4000, 1)), Lost(Sound("was/renamed.wav", 4100, 2)), Lost(Sound("was/packed.wav", 4200, 3)), Lost(Sound("was/gone.wav", 4300, 4))];
        Directory.CreateDirectory(Path.Combine(_temp.Path, "drive", "deep"));
        File.Move(lost[0].Path, Path.Combine(_temp.Path, "drive", "named.wav"));
        File.Move(lost[1].Path, Path.Combine(_temp.Path, "drive", "deep", "final.wav"));
        File.Move(lost[2].Path, Path.Combine(_temp.Path, "drive", "deep", "x.wav"));
        Tool.Run("flac", "--silent", "--delete-input-file", Path.Combine(_temp.Path, "drive", "deep", "x.wav"));
        File.Delete(lost[3].Path);
        Sound("drive/gone.wav", 4400, 9);
        Sound("drive/unlike.wav", 4500, 10);
        var (found, phases) = (new Dictionary<string, FoundFile>(), new List<SearchPhase>());
        var result = PlaceSearch.Run(lost, Path.Combine(_temp.Path, "drive"), new FreshIdentities(), f => found[f.Path] = f, p => phases.Add(p.Phase), cancel);
        Assert.Equal((2, 5, 0), (result.Folders, result.Files, result.Unreadable));
        Assert.Equal([SearchPhase.Names, SearchPhase.Headers, SearchPhase.Content], phases.Distinct());
        var matches = lost.Select(l => Matcher.Of(l, found.Values)).ToList();
        Assert.Equal(["named.wav", "final.wav", "x.flac", "gone.wav"], matches.Select(m => m.All[0].File.Name));
        Assert.Equal([Certainty.SameBytes, Certainty.SameBytes, Certainty.SameSamples, Certainty.None], matches.Select(m => m.All[0].Certainty));
        Assert.Null(matches[3].Best);
        Assert.DoesNotContain(found.Keys, k => k.EndsWith("unlike.wav", StringComparison.Ordinal));
    }

    /// <summary>How much of a place is looked through never falls back, ends at the whole, and is half when one of two equal halves is done.</summary>
    [Fact]
    public void TheShareOfTheWalkGrowsToTheWhole()
    {
        foreach (var folder in new[] { "left/a", "left/b", "right/a", "right/b/deep/deeper", "right/empty" })
        {
            Directory.CreateDirectory(Path.Combine(_temp.Path, "drive", folder));
        }
        var lost = Lost(SessionFixture.Sound(Path.Combine(_temp.Path, "a.wav")));
        var told = new List<(string Folder, double Share)>();
        PlaceSearch.Run([lost], Path.Combine(_temp.Path, "drive"), new FreshIdentities(), _ => { }, p => told.Add((p.Current, p.Share)), TestContext.Current.CancellationToken);
        Assert.Equal(told.Select(t => t.Share), told.Select(t => t.Share).Order());
        Assert.Equal(1, told[^1].Share, 9);
        // The top counts as one part, each of its two folders with all below it as another.
        Assert.Equal(1.0 / 3, told[0].Share, 9);
        Assert.Equal(2.0 / 3, told.Last(t => t.Folder.Contains("right", StringComparison.Ordinal) == told[1].Folder.Contains("right", StringComparison.Ordinal)).Share, 9);
    }

    [Fact]
    public void AFolderThatCannotBeOpenedIsCountedAndOneThatIsNotThereIsAnError()
    {
        var cancel = TestContext.Current.CancellationToken;
        var lost = Lost(SessionFixture.Sound(Path.Combine(_temp.Path, "a.wav")));
        Assert.Throws<FaultException>(() => PlaceSearch.Run([lost], Path.Combine(_temp.Path, "nowhere"), new FreshIdentities(), _ => { }, _ => { }, cancel));
        using var stopped = new CancellationTokenSource();
        stopped.Cancel();
        Assert.Throws<OperationCanceledException>(() => PlaceSearch.Run([lost], _temp.Path, new FreshIdentities(), _ => { }, _ => { }, stopped.Token));
    }
}
