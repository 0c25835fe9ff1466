using NeatCrate.Core.Contents;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Contents;

/// <summary>What goes along and what does not, by role and by choice: one table for every way out.</summary>
public sealed class ContentsReaderTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private static ContentsChoice Backup => new() { Outside = true, OutsideFolder = "Outside media" };

    private static ContentsChoice Sent => new() { Stay = [ContentRole.KeptSave, ContentRole.SetAside, ContentRole.Bounce], Outside = true, Portable = true, Repoints = true };

    private SessionContents Read(ContentsChoice choice) => ContentsReader.Read(_session.Inventory(), _session.Shelves, choice);

    private void Put(string relative, string text = "x")
    {
        Directory.CreateDirectory(Path.GetDirectoryName(_session.Inside(relative))!);
        File.WriteAllText(_session.Inside(relative), text);
    }

    private void Fill()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), seed: 1), "Cello").Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2))
            .Place(Path.Combine(_session.Laptop, "gull.wav")).Place(_session.Inside("Audio", "lost.wav")).Place(SessionFixture.Sound(_session.Inside(".waveforms", "odd place.wav"), seed: 8));
        SessionFixture.Sound(_session.Inside("Audio", "stray.wav"), seed: 3);
        SessionFixture.Sound(_session.Inside("Bounces", "mix.wav"), seed: 4);
        SessionFixture.Sound(_session.Inside("Set aside", "Audio", "held.wav"), seed: 5);
        File.WriteAllBytes(HoldingPlace.ListIn(_session.Folder), new HoldingPlace([new HeldFile("Audio/held.wav", "Audio/held.wav", false, DateTime.UnixEpoch, "Strays", [])]).ToUtf8());
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
        _session.Save(_session.Inside("Document backups", "261014 Net Mender 2026-10-14_200000.otio"));
        _session.Save();
        Put(".waveforms/0123.peaks");
        Put(".DS_Store");
        Put($"Audio/.neat-crate-{Guid.Empty:N}-0.part");
        Put("Notes/words.txt");
        File.WriteAllBytes(SessionCard.PathIn(_session.Folder), SessionCard.Stating(_session.Folder, SessionFixture.Name + ".otio"));
    }

    [Theory]
    [InlineData("261014 Net Mender.otio", ContentRole.Document, true, true)]
    [InlineData("Older documents/Net Mender 2026-10-13_230000.otio", ContentRole.Document, true, true)]
    [InlineData("Document backups/261014 Net Mender 2026-10-14_200000.otio", ContentRole.KeptSave, true, false)]
    [InlineData("Audio/Cello 01.wav", ContentRole.Media, true, true)]
    [InlineData("Audio/stray.wav", ContentRole.Media, true, true)]
    [InlineData("Bounces/mix.wav", ContentRole.Bounce, true, false)]
    [InlineData("Set aside/Audio/held.wav", ContentRole.SetAside, true, false)]
    [InlineData("Set aside/.neat-crate-set-aside.json", ContentRole.SetAside, true, false)]
    [InlineData(".waveforms/0123.peaks", ContentRole.Cache, false, false)]
    [InlineData(".waveforms/odd place.wav", ContentRole.Media, true, true)]
    [InlineData(".DS_Store", ContentRole.Litter, false, false)]
    [InlineData("Audio/.neat-crate-00000000000000000000000000000000-0.part", ContentRole.Own, false, false)]
    [InlineData(".neat-crate.json", ContentRole.Own, true, true)]
    [InlineData("Notes/words.txt", ContentRole.Other, true, true)]
    public void EachFileHasItsRoleAndGoesOrStays(string path, ContentRole role, bool inBackup, bool isSent)
    {
        Fill();
        foreach (var (contents, goes) in new[] { (Read(Backup), inBackup), (Read(Sent), isSent) })
        {
            var here = _session.Inside(path.Split('/'));
            if (goes)
            {
                Assert.Equal(role, Assert.Single(contents.Entries, e => e.Here == here).Role);
                Assert.DoesNotContain(contents.LeftOut, l => l.Here == here);
            }
            else
            {
                Assert.Equal((role, WhyLeftOut.ByChoice), Assert.Single(contents.LeftOut, l => l.Here == here) is var left ? (left.Role, left.Why) : default);
                Assert.DoesNotContain(contents.Entries, e => e.Here == here);
            }
        }
    }

    [Fact]
    public void WhatStandsOutsideGoesOrIsNamedWithTheReason()
    {
        Fill();
        Assert.Equal(Path.Combine(_session.Card, "tide.wav"), Assert.Single(Read(Backup).Entries, e => e.Path == "Outside media/tide.wav").Outside);
        Assert.Equal(Path.Combine(_session.Card, "tide.wav"), Assert.Single(Read(Sent).Entries, e => e.Path == "Audio/tide.wav").Outside);
        Assert.Equal(
            [(WhyLeftOut.Away, "Outside media/gull.wav"), (WhyLeftOut.Missing, null)],
            Read(Backup).CouldNotGo.Select(l => (l.Why, l.Place)));
        // By choice it stays, and is told as that.
        Assert.Equal(WhyLeftOut.ByChoice, Assert.Single(Read(new ContentsChoice()).LeftOut, l => l.Here == Path.Combine(_session.Card, "tide.wav")).Why);
    }

    /// <summary>What cannot go is named as what it is.</summary>
    [Fact]
    public void LinksAndPipesAreNamedAsWhatTheyAre()
    {
        _session.Save();
        Directory.CreateSymbolicLink(_session.Inside("Linked"), _session.Card);
        File.CreateSymbolicLink(_session.Inside("to nothing.wav"), "/nowhere/at all.wav");
        Tool.Run("mkfifo", _session.Inside("pipe"));
        Assert.Equal(
            [("Linked", WhyLeftOut.LinkedFolder), ("pipe", WhyLeftOut.NotAFile), ("to nothing.wav", WhyLeftOut.LinkToNothing)],
            Read(Backup).CouldNotGo.Select(l => (l.Path, l.Why)));
    }

    /// <summary>A document that names its audio folder, or one above it, as that of the waveform caches: nothing in it is taken for a cache, and it is told.</summary>
    [Theory]
    [InlineData("Audio", "Audio")]
    [InlineData("Sound", "Sound/Takes")]
    [InlineData("Notes", "Audio")]
    [InlineData("Set aside", "Audio")]
    public void AFolderForCachesThatHoldsOtherThingsCountsAsNone(string cache, string audio)
    {
        var document = SessionDocument.Create(_session.SessionId, SessionFixture.Name, new SessionSettings(), SessionLayout.Default with { Audio = audio, WaveformCache = cache }, ["Cello"]);
        var take = SessionFixture.Sound(_session.Inside([.. audio.Split('/'), "Cello 01.wav"]));
        ClipBuilder.Place(document.Root, "Cello", new ClipToPlace("Cello 01", MediaUrl.From(take, _session.Folder), 48000, 4800, 0, 4800));
        File.WriteAllBytes(_session.DocumentPath, document.ToUtf8());
        Put($"{audio}/take notes.txt");
        Put($"{cache}/more.txt");
        var inventory = _session.Inventory();
        Assert.Equal((FaultCode.CacheFolderInUse, cache), Assert.Single(inventory.Remarks, r => r.Code == FaultCode.CacheFolderInUse) is var told ? (told.Code, told.Name) : default);
        foreach (var choice in new[] { Backup, Sent })
        {
            var paths = ContentsReader.Read(inventory, _session.Shelves, choice).Entries.Select(e => e.Here).ToList();
            Assert.Contains(take, paths);
            Assert.Contains(_session.Inside([.. audio.Split('/'), "take notes.txt"]), paths);
            Assert.Contains(_session.Inside([.. cache.Split('/'), "more.txt"]), paths);
        }
    }

    /// <summary>Only pointers that would lead elsewhere from another place are written down, with where they lead.</summary>
    [Fact]
    public void PointersThatDoNotLeadThereByThemselvesAreWrittenDown()
    {
        var (inside, tide) = (SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav")), SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 2));
        _session.Place(inside, "Cello").Place(inside, "Cello", url: "file://" + Uri.EscapeDataString(inside).Replace("%2F", "/", StringComparison.Ordinal)).Place(tide, url: "../../card/tide.wav").Save();
        var pointers = Assert.Single(Read(Backup).Pointers!.Value);
        Assert.Equal(Path.GetFileName(_session.DocumentPath), pointers.Document);
        Assert.Equal([inside, tide], pointers.Pointers.Select(p => p.Path));
    }

    [Fact]
    public void FoldersComeWithTheirPermissionsAndTimes()
    {
        Fill();
        Directory.CreateDirectory(_session.Inside("Private"));
        File.SetUnixFileMode(_session.Inside("Private"), UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        Tool.Run("touch", "-d", "2026-10-14T20:00:00.123456789Z", _session.Inside("Private"));
        var folders = Read(Backup).Folders;
        Assert.Equal("", folders[0].Path);
        Assert.Equal((0x1C0, 1792008000_123_456_789L, true), folders.Single(f => f.Path == "Private") is var own ? (own.Mode!.Value, own.Time!.Value, own.IsEmpty) : default);
        Assert.Equal([".waveforms", "Document backups", "Set aside/Audio"], folders.Select(f => f.Path).Where(p => p is ".waveforms" or "Document backups" or "Set aside/Audio"));
        Assert.DoesNotContain(Read(Sent).Folders, f => f.Path is "Document backups" or "Set aside" or "Bounces" && !f.IsEmpty);
    }
}
