using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Purge;

public sealed class PurgeJudgeTests : IDisposable
{
    private readonly PurgeFixture _purge = new();

    private SessionFixture Session => _purge.Session;

    public void Dispose() => _purge.Dispose();

    private static IEnumerable<(UseReason, bool)> Reasons(PurgeItem item) => item.Reasons.Select(r => (r.Why, r.Protects));

    [Fact]
    public void EveryFileSaysWhyItCountsAndInWhichGroupItCouldGo()
    {
        _purge.LooksForTheSame = true;
        Session.Place(_purge.Sound("Audio/Cello 01.wav", 1), "Cello").List(_purge.Sound("Audio/Cello 02.wav", 2)).List(_purge.Sound("Audio/tide.wav", 3));
        _purge.Sound("Audio/drip.wav", 4);
        _purge.Sound("Bounces/Net Mender mix.wav", 5);
        _purge.Sound("Audio/Cello 01 again.wav", 1);
        Directory.CreateDirectory(Session.Inside("Lyrics"));
        File.WriteAllText(Session.Inside(".DS_Store"), "x");
        File.WriteAllText(Session.Inside("Notes.txt"), "words");
        Directory.CreateDirectory(Session.Inside(".waveforms"));
        File.WriteAllText(Session.Inside(".waveforms", "a.peaks"), "x");
        Session.Save();
        var items = PurgeJudge.Judge(_purge.World()).ToDictionary(i => Path.GetRelativePath(Session.Folder, i.Path));
        Assert.Equal(
            [
                (".DS_Store", PurgeGroup.Litter), (".waveforms/a.peaks", PurgeGroup.Caches), ("Audio/Cello 01 again.wav", PurgeGroup.SameSound), ("Audio/Cello 01.wav", null),
                ("Audio/Cello 02.wav", PurgeGroup.UnplacedTakes), ("Audio/drip.wav", PurgeGroup.Strays), ("Audio/tide.wav", PurgeGroup.TriedSamples),
                ("Bounces/Net Mender mix.wav", PurgeGroup.Bounces), ("Lyrics", PurgeGroup.EmptyFolders),
            ],
            items.OrderBy(i => i.Key, StringComparer.Ordinal).Select(i => (i.Key, i.Value.Group)));
        Assert.Equal([(UseReason.Placed, true)], Reasons(items["Audio/Cello 01.wav"]));
        Assert.Equal([(UseReason.Listed, false)], Reasons(items["Audio/Cello 02.wav"]));
        Assert.Equal([(UseReason.NotInSession, false)], Reasons(items["Audio/drip.wav"]));
        Assert.Equal(Session.Inside("Audio", "Cello 01.wav"), items["Audio/Cello 01 again.wav"].SameAs);
    }

    /// <summary>What only yesterday's version plays is not unused, and one sees which version.</summary>
    [Fact]
    public void WhatOnlyAnOlderVersionPlaysIsNotUnused()
    {
        Session.Place(_purge.Sound("Audio/Cello 01.wav", 1), "Cello").Save(Session.Inside("Older documents", "261013 Net Mender.otio"));
        SaveEmpty();
        var item = _purge.Item("Audio/Cello 01.wav");
        Assert.Null(item.Group);
        var reason = Assert.Single(item.Reasons, r => r.Why == UseReason.OlderVersion);
        Assert.Equal((true, "261013 Net Mender"), (reason.Protects, Assert.Single(reason.Names)));
        Assert.Contains(FaultCode.InUse, _purge.SetAside("Audio/Cello 01.wav").Refusals.Select(f => f.Code));
        _purge.Counting = new PurgeCounting(OlderVersions: false);
        Assert.Equal(PurgeGroup.UnplacedTakes, _purge.Item("Audio/Cello 01.wav").Group);
    }

    /// <summary>What only a kept save plays stays by choice, and one sees when that was saved.</summary>
    [Fact]
    public void WhatOnlyAKeptSavePlaysIsNotUnused()
    {
        var path = _purge.Sound("Audio/Cello 01.wav", 1);
        SaveEmpty();
        _purge.KeptSaves = [(path, new DateTime(2026, 10, 13, 22, 30, 0))];
        var item = _purge.Item("Audio/Cello 01.wav");
        Assert.Null(item.Group);
        Assert.Equal("2026-10-13 22:30", Assert.Single(Assert.Single(item.Reasons, r => r.Why == UseReason.KeptSave).Names));
        _purge.Counting = new PurgeCounting(KeptSaves: false);
        Assert.NotNull(_purge.Item("Audio/Cello 01.wav").Group);
    }

    /// <summary>A take that is being recorded is placed nowhere yet.</summary>
    [Fact]
    public void WhatIsBeingRecordedIsNotUnused()
    {
        var path = _purge.Sound("Audio/Cello 01.wav", 1);
        SaveEmpty();
        Assert.NotNull(_purge.Item("Audio/Cello 01.wav").Group);
        _purge.Growing.Add(path);
        var item = _purge.Item("Audio/Cello 01.wav");
        Assert.Null(item.Group);
        Assert.Single(item.Reasons, r => r is { Why: UseReason.BeingWritten, Protects: true });
    }

    /// <summary>Whoever else counts on one of two files of one sound cannot be pointed at the other one: it stays.</summary>
    [Theory]
    [InlineData(UseReason.OtherSession)]
    [InlineData(UseReason.KeptSave)]
    [InlineData(UseReason.BeingWritten)]
    public void AFileOfTheSameSoundStaysWhereSomebodyElseCountsOnIt(UseReason why)
    {
        Session.Place(_purge.Sound("Audio/Cello 01.wav", 1), "Cello");
        var again = _purge.Sound("Audio/Cello 01 again.wav", 1);
        Session.Save();
        Assert.Equal(PurgeGroup.SameSound, _purge.Item("Audio/Cello 01 again.wav").Group);
        switch (why)
        {
            case UseReason.OtherSession:
                _purge.Other(again);
                break;
            case UseReason.KeptSave:
                _purge.KeptSaves = [(again, new DateTime(2026, 10, 13, 22, 30, 0))];
                break;
            default:
                _purge.Growing.Add(again);
                break;
        }
        var item = _purge.Item("Audio/Cello 01 again.wav");
        Assert.Null(item.Group);
        Assert.Single(item.Reasons, r => r.Why == why && r.Protects);
        Assert.NotEmpty(_purge.SetAside("Audio/Cello 01 again.wav").Refusals);
    }

    [Fact]
    public void WhatAnotherSessionUsesIsNotUnused()
    {
        _purge.Other(_purge.Sound("Audio/hum.wav", 1));
        Session.Save();
        var item = _purge.Item("Audio/hum.wav");
        Assert.Null(item.Group);
        Assert.Equal("261005 Low Water", Assert.Single(Assert.Single(item.Reasons, r => r.Why == UseReason.OtherSession).Names));
    }

    /// <summary>A pointer that gets into the session by a link on the way is a use like any other.</summary>
    [Fact]
    public void AnotherSessionThatGetsThereByALinkCounts()
    {
        _purge.Sound("Audio/hum.wav", 1);
        Session.Save();
        Directory.CreateSymbolicLink(Path.Combine(Session.Card, "work"), Session.Folder);
        _purge.Other(Path.Combine(Session.Card, "work", "Audio", "hum.wav"));
        Assert.Null(_purge.Item("Audio/hum.wav").Group);
    }

    [Fact]
    public void BesideADocumentThatNobodyCanReadNothingIsUnused()
    {
        _purge.Sound("Audio/drip.wav", 1);
        File.WriteAllText(Session.Inside("Net Mender.xyz"), "a document of another program");
        Session.Save();
        var item = _purge.Item("Audio/drip.wav");
        Assert.Null(item.Group);
        Assert.Equal("Net Mender.xyz", Assert.Single(Assert.Single(item.Reasons, r => r.Why == UseReason.UseUnknown).Names));
        var refusal = Assert.Single(_purge.SetAside("Audio/drip.wav").Refusals);
        Assert.Equal((FaultCode.UseCannotBeKnown, "Net Mender.xyz"), (refusal.Code, Assert.Single(refusal.Names)));
    }

    [Fact]
    public void KeepersAndRendersGoOnlyByName()
    {
        Session.Document.AddTrack("Harmonium");
        var midi = Session.Inside("Audio", "harmonium.mid");
        Directory.CreateDirectory(Path.GetDirectoryName(midi)!);
        File.WriteAllBytes(midi, [0x4D, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 0, 0, 96]);
        Session.Place(midi, "Harmonium");
        ClipBuilder.List(Session.Document.Root, MediaUrl.From(_purge.Sound("Audio/Cello 03.wav", 3), Session.Folder), 4800, 48000, new TakeLabel("Cello", 3, 1, IsKeeper: true));
        ClipBuilder.List(Session.Document.Root, MediaUrl.From(_purge.Sound("Audio/Cello 02.wav", 2), Session.Folder), 4800, 48000, new TakeLabel("Cello", 2, 1));
        _purge.Sound("Audio/Harmonium (print).wav", 4);
        Session.Save();
        var (keeper, beside, render) = (_purge.Item("Audio/Cello 03.wav"), _purge.Item("Audio/Cello 02.wav"), _purge.Item("Audio/Harmonium (print).wav"));
        Assert.Equal((PurgeGroup.UnplacedTakes, true), (keeper.Group, keeper.IsOnlyByName));
        Assert.Equal((PurgeGroup.UnplacedTakes, false, "Cello 03.wav"), (beside.Group, beside.IsOnlyByName, beside.KeptBeside));
        Assert.Equal((PurgeGroup.Renders, true), (render.Group, render.IsOnlyByName));
        // Without the answer to who opens the session next, a render stays.
        var request = _purge.Request("Audio/Cello 03.wav", "Audio/Harmonium (print).wav");
        Assert.Equal([FaultCode.RendersNotAsked], SetAsidePlanner.SetAside(request).Refusals.Select(f => f.Code));
        var plan = SetAsidePlanner.SetAside(request with { InstrumentsAreThere = true });
        Assert.Empty(plan.Refusals);
        Assert.Equal([(FaultCode.KeepersAmong, "Cello 03.wav"), (FaultCode.RendersAmong, "Harmonium (print).wav")], plan.Remarks.Select(r => (r.Code, Assert.Single(r.Names))));
        // Without the instrument it is the only sound of its track.
        File.Delete(midi);
        Assert.Equal((null, UseReason.OnlySound), (_purge.Item("Audio/Harmonium (print).wav").Group, _purge.Item("Audio/Harmonium (print).wav").Reasons[0].Why));
    }

    /// <summary>A reference in data of another program is a use that we can't take away.</summary>
    [Fact]
    public void WhatAnotherProgramsDataPointsAtStays()
    {
        var path = _purge.Sound("Audio/drip.wav", 1);
        Session.Document.Root["metadata"]!.Set("another program", JsonItem.Map(("bin", JsonItem.List(
            [JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("ExternalReference.1")), ("target_url", JsonItem.Of(MediaUrl.From(path, Session.Folder))))]))));
        Session.Save();
        Assert.Equal([(UseReason.Named, true)], Reasons(_purge.Item("Audio/drip.wav")));
    }

    /// <summary>What an older version's data of another program names is kept as long as older versions count.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void WhatAnOlderVersionsDataOfAnotherProgramNamesCountsAsThatDoes(bool olderVersions)
    {
        var path = _purge.Sound("Audio/drip.wav", 1);
        Session.Document.Root["metadata"]!.Set("another program", JsonItem.Map(("bin", JsonItem.List(
            [JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("ExternalReference.1")), ("target_url", JsonItem.Of(MediaUrl.From(path, Session.Folder))))]))));
        Session.Save(Session.Inside("Older documents", "261013 Net Mender.otio"));
        SaveEmpty();
        _purge.Counting = new PurgeCounting(OlderVersions: olderVersions);
        Assert.Equal(olderVersions, _purge.Item("Audio/drip.wav").Group is null);
        Assert.Equal(olderVersions ? [(UseReason.Named, true)] : [], Reasons(_purge.Item("Audio/drip.wav")).Where(r => r.Item1 == UseReason.Named));
    }

    [Fact]
    public void SamplesOfAnInstrumentAreNotLooseFiles()
    {
        _purge.Sound("Audio/bell.wav", 1);
        File.WriteAllText(Session.Inside("Audio", "bells.sfz"), "<region> sample=bell.wav\n");
        Session.Save();
        Assert.Null(_purge.Item("Audio/bell.wav").Group);
        Assert.Equal(UseReason.PlaysInInstrument, _purge.Item("Audio/bell.wav").Reasons[0].Why);
    }

    private void SaveEmpty() => File.WriteAllBytes(
        Session.DocumentPath, SessionDocument.Create(Session.SessionId, SessionFixture.Name, new SessionSettings(), SessionLayout.Default, ["Cello", "Samples"]).ToUtf8());
}
