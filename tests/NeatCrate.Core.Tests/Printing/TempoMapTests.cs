using NeatCrate.Core.Printing;

namespace NeatCrate.Core.Tests.Printing;

/// <summary>Tempo, signature and markers as a Standard MIDI File, byte for byte by "Standard MIDI Files 1.0" (RP-001), and as text.</summary>
public sealed class TempoMapTests
{
    private static byte[] Events(TempoMap map) => map.ToMidi()[22..];

    [Fact]
    public void AFileOfOneTrackSaysTempoSignatureAndMarkers()
    {
        // 92 quarters in a minute are 652,174 microseconds each (0x09F38E); at 2 s that is tick 2944 of 960 a quarter (0x97 0x00 in groups of seven bits).
        var midi = new TempoMap("Mender", 92, "6/8", [new TimelineMarker(2, "Verse"), new TimelineMarker(2, "Fiddle")]).ToMidi();
        Assert.Equal(
            "4D546864 00000006 0000 0001 03C0 4D54726B 00000031".Replace(" ", "", StringComparison.Ordinal)
            + "00FF0306" + Convert.ToHexString("Mender"u8)
            + "00FF510309F38E" + "00FF580406031808"
            + "9700FF0605" + Convert.ToHexString("Verse"u8) + "00FF0606" + Convert.ToHexString("Fiddle"u8)
            + "00FF2F00", Convert.ToHexString(midi));
    }

    /// <summary>Three bytes hold no tempo below 3.6; what a signature cannot say there is left to the text.</summary>
    [Theory]
    [InlineData(1.0, "4/4", "FF5103FFFFFF", true)]
    [InlineData(1000.0, "7/16", "FF510300EA60", true)]
    [InlineData(120.0, "4/6", "FF510307A120", false)]
    [InlineData(null, null, "FF510307A120", false)]
    public void WhatDoesNotFitIsKeptWithin(double? tempo, string? signature, string expected, bool hasSignature)
    {
        var events = Convert.ToHexString(Events(new TempoMap("", tempo, signature, [])));
        Assert.Contains(expected, events, StringComparison.Ordinal);
        Assert.Equal(hasSignature, events.Contains("FF5804", StringComparison.Ordinal));
    }

    [Fact]
    public void TheTextSaysTheSame() => Assert.Equal(
        ["Tempo       92.5 quarters in a minute", "Signature   6/8", "Markers", "  0:00:02.000  Verse", "  1:01:01.500  Coda"],
        new TempoMap("Mender", 92.5, "6/8", [new TimelineMarker(2, "Verse"), new TimelineMarker(3661.4996, "Coda")]).ToLines());
}
