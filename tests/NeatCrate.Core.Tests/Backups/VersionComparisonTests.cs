using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Backups;

public sealed class VersionComparisonTests
{
    private const string Folder = "/sessions/261019 Fog Signal";

    private static SessionDocument Document(params (string Track, string File, long Start, long Length, double Gap)[] clips)
    {
        var document = SessionDocument.Create(new Guid(1, 2, 3, [4, 5, 6, 7, 8, 9, 10, 11]), "Fog Signal", new SessionSettings(), SessionLayout.Default, [.. clips.Select(c => c.Track).Distinct()]);
        foreach (var (track, file, start, length, gap) in clips)
        {
            ClipBuilder.Place(document.Root, track, new ClipToPlace(file, MediaUrl.From($"{Folder}/Audio/{file}.wav", Folder), 48000, 480_000, start, length, (long)(gap * 48000)));
        }
        return SessionDocument.Parse(document.ToUtf8());
    }

    private static VersionDifference Compare(SessionDocument before, SessionDocument after) => VersionComparison.Compare(before, after, Folder);

    [Fact]
    public void TheSameIsTheSame()
    {
        var difference = Compare(Document(("Cello", "a", 0, 48000, 0)), Document(("Cello", "a", 0, 48000, 0)));
        Assert.Empty(difference.Tracks);
        Assert.Empty(difference.Files);
        Assert.False(difference.Others);
    }

    [Fact]
    public void ALostClipIsNamedWithItsPlaceAndItsFile()
    {
        var difference = Compare(
            Document(("Cello", "a", 0, 96000, 0), ("Cello", "b", 0, 48000, 1), ("Bell", "c", 0, 48000, 0)), Document(("Cello", "a", 0, 96000, 0), ("Bell", "c", 0, 48000, 0)));
        var track = Assert.Single(difference.Tracks);
        Assert.Equal(("Cello", VersionChange.Changed, 1), (track.Name, track.Change, track.Same));
        Assert.Equal(new ClipDifference(VersionChange.Gone, "b", $"{Folder}/Audio/b.wav", 3, null), Assert.Single(track.Clips));
        Assert.Equal([new FileDifference($"{Folder}/Audio/b.wav", false)], difference.Files);
    }

    [Fact]
    public void MovedChangedAndAddedAreToldApart()
    {
        var difference = Compare(
            Document(("Cello", "a", 0, 48000, 0), ("Cello", "b", 0, 48000, 0)), Document(("Cello", "a", 0, 24000, 0), ("Cello", "b", 0, 48000, 2), ("Cello", "c", 0, 48000, 0)));
        Assert.Equal([("a", VersionChange.Changed), ("b", VersionChange.Moved), ("c", VersionChange.Added)], Assert.Single(difference.Tracks).Clips.Select(c => (c.Name, c.Change)));
        Assert.Equal([new FileDifference($"{Folder}/Audio/c.wav", true)], difference.Files);
    }

    [Fact]
    public void AClipOnAnotherTrackHasMovedThere()
    {
        var difference = Compare(Document(("Cello", "a", 0, 48000, 0), ("Bell", "c", 0, 48000, 0)), Document(("Cello", "a", 0, 48000, 0), ("Hands", "c", 0, 48000, 0)));
        Assert.Equal([("Hands", VersionChange.Added), ("Bell", VersionChange.Gone)], difference.Tracks.Select(t => (t.Name, t.Change)));
        Assert.Equal((VersionChange.Moved, "Bell"), Assert.Single(difference.Tracks[0].Clips.Select(c => (c.Change, c.OtherTrack))));
        Assert.Empty(difference.Tracks[1].Clips);
        Assert.Empty(difference.Files);
    }

    /// <summary>Twice the same clip: one of the two is gone, whichever.</summary>
    [Fact]
    public void OneOfTwoAlikeIsGone()
    {
        var difference = Compare(Document(("Bell", "c", 0, 48000, 0), ("Bell", "c", 0, 48000, 0)), Document(("Bell", "c", 0, 48000, 0)));
        Assert.Equal([VersionChange.Gone], Assert.Single(difference.Tracks).Clips.Select(c => c.Change));
        Assert.Empty(difference.Files);
    }

    [Fact]
    public void SomethingElseThatDiffersIsSaid()
    {
        var after = Document(("Cello", "a", 0, 48000, 0));
        after.Rename("another name");
        Assert.True(Compare(Document(("Cello", "a", 0, 48000, 0)), after).Others);
    }

    [Fact]
    public void AFilesHistoryIsAskedOfAllVersions()
    {
        static VersionFiles Version(string key, int day, bool? uses, bool? holds) => new(
            key, new DateTime(2026, 10, day), uses is { } u ? new HashSet<string>(u ? ["/a"] : []) : null, holds is { } h ? new HashSet<string>(h ? ["/a"] : []) : null);
        var history = FileHistory.Of("/a", [Version("1", 19, true, null), Version("2", 20, true, true), Version("3", 21, false, null), Version("4", 22, null, null), Version("5", 23, false, true), Version("6", 24, false, false)]);
        Assert.Equal(new FileHistory("2", "3", "5", "6", 6, 1), history);
        Assert.Equal(new FileHistory(null, null, null, null, 0, 0), FileHistory.Of("/a", []));
    }
}
