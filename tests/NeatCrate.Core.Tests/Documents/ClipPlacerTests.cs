using CsCheck;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Documents;

public sealed class ClipPlacerTests
{
    private static readonly int[] Rates = [44100, 48000, 88200];

    private readonly SessionDocument _document =
        SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Samples"]);

    private static ExactTime Seconds(double seconds) => ExactTime.From(Math.Round(seconds * 1000), 1000);

    private void Place(string name, double at, double seconds, int rate = 48000) => ClipPlacer.Place(
        _document, "Samples", new ClipToPlace(name, name + ".wav", rate, (long)(seconds * rate), 0, (long)(seconds * rate)), Seconds(at));

    /// <summary>What plays when, added up from the track as any reader of OpenTimelineIO adds it up.</summary>
    private List<(string Name, double From, double To)> Track()
    {
        var clips = new List<(string, double, double)>();
        var at = 0.0;
        foreach (var item in SessionDocument.Parse(_document.ToUtf8()).Root["tracks"]!["children"]!.Items[0]["children"]!.Items)
        {
            var duration = item["source_range"]!["duration"]!;
            var length = duration["value"]!.Number!.Value / duration["rate"]!.Number!.Value;
            Assert.True(length > 0, "an item without length");
            if (item["OTIO_SCHEMA"]!.AsText == "Clip.2")
            {
                clips.Add((item["name"]!.AsText!, Math.Round(at, 6), Math.Round(at + length, 6)));
            }
            at += length;
        }
        return clips;
    }

    [Fact]
    public void ClipsStandWhereTheyWereMeantToWhateverTheOrder()
    {
        Place("second", 10, 2);
        Place("fourth", 20, 1);
        Place("first", 0, 3);
        Place("third", 12, 8);
        Assert.Equal([("first", 0.0, 3.0), ("second", 10.0, 12.0), ("third", 12.0, 20.0), ("fourth", 20.0, 21.0)], Track());
    }

    [Theory]
    [InlineData(9.5, 1)]
    [InlineData(11, 0.5)]
    [InlineData(11.9, 5)]
    public void WhatPlaysIsNeitherMovedNorCovered(double at, double seconds)
    {
        Place("bell", 10, 2);
        var before = _document.ToUtf8();
        var why = Assert.Throws<CannotPlaceException>(() => Place("other", at, seconds)).Fault;
        Assert.Equal((FaultCode.TrackOccupied, "bell", "Samples", 10.0, 12.0), (why.Code, why.Other, why.Name, why.Seconds!.Value, why.UntilSeconds!.Value));
        Assert.Equal(before, _document.ToUtf8());
    }

    [Fact]
    public void RatesThatDifferFitBesideEachOther()
    {
        Place("a", 5, 1, 44100);
        Place("b", 1, 2, 48000);
        Place("c", 3, 2, 96000);
        Assert.Equal([("b", 1.0, 3.0), ("c", 3.0, 5.0), ("a", 5.0, 6.0)], Track());
    }

    [Fact]
    public void NothingThatWasPlacedEverMoves() =>
        Gen.Select(Gen.Int[0, 400], Gen.Int[1, 80], Gen.Int[0, 2]).Array[1, 25].Sample(wishes =>
        {
            var test = new ClipPlacerTests();
            var placed = new List<(string, double, double)>();
            for (var n = 0; n < wishes.Length; n++)
            {
                var (at, length, rate) = (wishes[n].Item1 / 10.0, wishes[n].Item2 / 10.0, Rates[wishes[n].Item3]);
                var isFree = placed.TrueForAll(p => p.Item3 <= at + 1e-6 || p.Item2 >= at + length - 1e-6);
                var refused = false;
                try
                {
                    test.Place($"{n}", at, length, rate);
                    placed.Add(($"{n}", at, at + length));
                }
                catch (CannotPlaceException)
                {
                    refused = true;
                }
                Assert.Equal(!isFree, refused);
            }
            Assert.Equal(
                placed.OrderBy(p => p.Item2).Select(p => (p.Item1, Math.Round(p.Item2, 4), Math.Round(p.Item3, 4))),
                test.Track().Select(p => (p.Name, Math.Round(p.From, 4), Math.Round(p.To, 4))));
        }, iter: 200, threads: 1);

    [Theory]
    [InlineData(1, 1.3)]
    [InlineData(8.7, 1.3)]
    [InlineData(8.8, 12)]
    public void TheFirstTimeThatIsFreeIsLongEnoughAndCanBeSaid(double seconds, double expected)
    {
        Place("first", 0, 1.21);
        Place("second", 10, 2);
        var free = _document.FreeFrom("Samples", seconds);
        Assert.Equal(expected, free, 9);
        Place("next", free, seconds);
    }

    [Fact]
    public void WhatIsFreeIsFreeWhateverStandsThere() =>
        Gen.Select(Gen.Int[0, 400], Gen.Int[1, 80], Gen.Int[0, 2]).Array[1, 25].Sample(wishes =>
        {
            var test = new ClipPlacerTests();
            foreach (var (_, length, rate) in wishes)
            {
                // What is proposed is never refused.
                test.Place("clip", test._document.FreeFrom("Samples", length / 10.0), length / 10.0, Rates[rate]);
            }
        }, iter: 100, threads: 1);

    [Fact]
    public void ATrackWhoseLengthsAreNotKnownIsLeftAlone()
    {
        _document.Root["tracks"]!["children"]!.Items[0].Set("children", JsonItem.List(
            [JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Stack.1")), ("name", JsonItem.Of("nested")), ("children", JsonItem.List()))]));
        var document = SessionDocument.Parse(_document.ToUtf8());
        Assert.Equal(
            FaultCode.TrackLengthUnknown, Assert.Throws<CannotPlaceException>(() => ClipPlacer.Place(document, "Samples", new ClipToPlace("a", "a.wav", 48000, 1, 0, 1), default)).Fault.Code);
    }
}
