using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Media;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Record;

public sealed class TakeFinderTests : IDisposable
{
    private static readonly string[] Tracks = ["Cello", "Cello low", "Hurdy-gurdy", "Voice", "Drum 2"];

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    [Theory]
    [InlineData("Cello 03.wav", "Cello", 3)]
    [InlineData("cello_7.wav", "Cello", 7)]
    [InlineData("04 Voice.wav", "Voice", 4)]
    [InlineData("Cello low - 12.wav", "Cello low", 12)]
    [InlineData("hurdy gurdy.2.wav", "Hurdy-gurdy", 2)]
    [InlineData("Net Mender-Voice-261014-05.wav", "Voice", 5)]
    [InlineData("Drum 2 09.wav", "Drum 2", 9)]
    [InlineData("Cello.wav", "Cello", null)]
    [InlineData("Voices 02.wav", null, null)]
    [InlineData("Invoice 1.wav", null, null)]
    [InlineData("tide.wav", null, null)]
    public void ANameTellsTheTrackAndTheNumber(string name, string? track, int? number) =>
        Assert.Equal((track, number), TakeFinder.FromName(name, Tracks));

    private Take Only(string name) => Assert.Single(TakeFinder.Find(_session.Inventory()), t => t.File.Name == name);

    private void Record(string name, BroadcastExtension? bext, Ixml? ixml, int rate = 48000)
    {
        var path = _session.Inside("Audio", name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using var stream = File.Create(path);
        (string, ReadOnlyMemory<byte>)[] chunks = ixml is null ? [] : [("iXML", IxmlChunk.Write(ixml))];
        using var writer = new WavWriter(stream, new PcmFormat(rate, 1, 24), bext, chunks);
        writer.Write(new int[480]);
    }

    [Fact]
    public void WhatTheRecorderWroteIntoTheFileGoesBeforeItsName()
    {
        _session.Save();
        Record("Samples 09.wav", new BroadcastExtension("Net Mender, pass 4", "x", "", "", "", 0), new Ixml(null, "Net Mender", "2", null, [new IxmlTrack(1, "cello")]));
        Record("ZOOM0001.wav", null, new Ixml(null, null, null, "pass 7", [new IxmlTrack(1, "Oud")]));
        var take = Only("Samples 09.wav");
        Assert.Equal(("Cello", 2, 4, TakeEvidence.Ixml), (take.Track, take.Number, take.Pass, take.Evidence));
        var other = Only("ZOOM0001.wav");
        Assert.Equal(("Oud", null, 7), (other.Track, other.Number, other.Pass));
    }

    [Fact]
    public void TheSessionsListGoesBeforeEverything()
    {
        var path = SessionFixture.Sound(_session.Inside("Audio", "Samples 01.wav"));
        ClipBuilder.List(_session.Document.Root, MediaUrl.From(path, _session.Folder), 4800, 48000, new TakeLabel("Cello", 5, 3));
        _session.Save();
        var take = Only("Samples 01.wav");
        Assert.Equal(("Cello", 5, 3, TakeEvidence.List), (take.Track, take.Number, take.Pass, take.Evidence));
        Assert.Equal(6, TakeFinder.NextNumber([take], "cello"));
        Assert.Equal(1, TakeFinder.NextNumber([take], "Voice"));
        Assert.Equal(4, TakeFinder.NextPass([take]));
    }

    /// <summary>EBU Tech 3285: TimeReference counts samples since midnight; one o'clock at 48 kHz is sample 172,800,000.</summary>
    [Theory]
    [InlineData(48000, 172_800_000UL, 0)]
    [InlineData(48000, 172_896_000UL, 96_000)]
    [InlineData(44100, 158_760_000UL, 0)]
    [InlineData(48000, 0UL, -172_800_000)]
    public void ATakeBelongsWhereItsTimeReferenceSays(int rate, ulong reference, long expected)
    {
        _session.Document.Root.Set("global_start_time", JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of(24.0)), ("value", JsonItem.Of(86_400.0))));
        _session.Save();
        Record("Cello 01.wav", new BroadcastExtension("", "", "", "", "", reference), null, rate);
        Assert.Equal(expected, Only("Cello 01.wav").StartSamples);
    }

    /// <summary>The field has 64 bits; more than 63 of them are no time of any day, and harm nothing else in the session.</summary>
    [Theory]
    [InlineData(1UL << 63)]
    [InlineData(ulong.MaxValue)]
    public void AnAbsurdTimeReferenceIsAsGoodAsNone(ulong reference)
    {
        _session.Save();
        Record("Cello 01.wav", new BroadcastExtension("", "", "", "", "", reference), null);
        Record("Cello 02.wav", new BroadcastExtension("", "", "", "", "", 96_000), null);
        Assert.Equal([("Cello 01.wav", null), ("Cello 02.wav", (long?)96_000)], TakeFinder.Find(_session.Inventory()).Select(t => (t.File.Name, t.StartSamples)).Order());
    }

    [Fact]
    public void SamplesOnTheListAreNoTakesAndStraysWithoutATrackAre()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "tide.wav"))).List(SessionFixture.Sound(_session.Inside("Audio", "rope.wav"), seed: 2)).Save();
        SessionFixture.Sound(_session.Inside("Audio", "R_0001.wav"), seed: 3);
        SessionFixture.Sound(_session.Inside("Bounces", "Cello 99.wav"), seed: 4);
        var take = Assert.Single(TakeFinder.Find(_session.Inventory()));
        Assert.Equal(("R_0001.wav", TakeEvidence.None), (take.File.Name, take.Evidence));
    }

    /// <summary>A session of another program keeps its sound elsewhere; that is where its takes are.</summary>
    [Fact]
    public void TheAudioFolderOfAnotherProgramIsWhereMostOfTheSoundIs()
    {
        File.WriteAllText(_session.DocumentPath, """{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","name":"Cello","children":[]}]}}""");
        SessionFixture.Sound(_session.Inside("Recorded", "Cello 01.wav"));
        SessionFixture.Sound(_session.Inside("Recorded", "Cello 02.wav"), seed: 2);
        SessionFixture.Sound(_session.Inside("Reference", "Cello 99.wav"), seed: 3);
        var inventory = _session.Inventory();
        Assert.Equal("Recorded", inventory.Layout.Audio);
        Assert.Equal(["Cello 01.wav", "Cello 02.wav"], TakeFinder.Find(inventory).Select(t => t.File.Name));
        Directory.CreateDirectory(_session.Inside("Audio"));
        Assert.Equal("Audio", _session.Inventory().Layout.Audio);
    }
}
