using System.Text;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Record;

/// <summary>What is written into the take log: keepers, notes, which take is placed where. No sound is ever touched.</summary>
public sealed class TakeLogPlannerTests : IDisposable
{
    private const int Length = 4800;
    private const int Rate = 48000;

    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A take that tells its time: so many seconds after midnight.</summary>
    private string Take(string name, double? seconds)
    {
        var path = _session.Inside("Audio", name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using var stream = File.Create(path);
        var bext = seconds is { } at ? new BroadcastExtension("pass 2", "Neat Crate", "", "2026-10-14", "20:00:00", (ulong)(at * Rate)) : null;
        using var writer = new WavWriter(stream, new PcmFormat(Rate, 1, 24), bext);
        writer.Write(Enumerable.Range(0, Length).Select(n => n / 10000f).ToArray());
        return path;
    }

    private Plan Plan(params TakeChange[] changes) =>
        TakeLogPlanner.Plan(_session.SessionId, _session.Inventory(), _session.Shelves, new HashSet<string>(), changes);

    private Plan Apply(params TakeChange[] changes)
    {
        var plan = Plan(changes);
        Assert.Empty(plan.Refusals);
        _journal.Apply(plan);
        return plan;
    }

    private ILookup<string, TakePlacement> Placed() => TakeLog.Placements(_session.Inventory(), _session.Shelves);

    private (string Track, double? Seconds)[] Placed(string path) => [.. Placed()[path].Select(p => (p.Track, p.Seconds))];

    private TakeLabel? Label(string path) => _session.Inventory().Files.Single(f => f.Path == path).ListedTake;

    [Fact]
    public void MarksAndNotesStandInTheDocumentAndTheSoundIsNotTouched()
    {
        var take = Take("Cello 03.wav", 1);
        _session.Save();
        var before = Tree.Of(_session.Folder);
        var plan = Apply(new TakeChange(take, IsKeeper: true, Note: "  breath before the bridge "));
        Assert.Equal("Mark 1 keeper; write 1 note; add 1 take to the session; no sound is changed.", plan.Sentence);
        Assert.Equal(new TakeLabel("Cello", 3, 2, true, "breath before the bridge"), Label(take));
        var sound = Tree.Of(_session.Folder)["Audio/Cello 03.wav"];
        Assert.Equal(before["Audio/Cello 03.wav"], sound);

        // One thing alone leaves the other.
        var second = Apply(new TakeChange(take, IsKeeper: false));
        Assert.Equal("Unmark 1 keeper; no sound is changed.", second.Sentence);
        Assert.Equal(new TakeLabel("Cello", 3, 2, false, "breath before the bridge"), Label(take));
        Apply(new TakeChange(take, Note: ""));
        Assert.Equal(new TakeLabel("Cello", 3, 2), Label(take));
        Assert.Equal([FaultCode.TakeLogUnchanged], Plan(new TakeChange(take, IsKeeper: false)).Refusals.Codes());
        Assert.Equal(sound, Tree.Of(_session.Folder)["Audio/Cello 03.wav"]);
    }

    [Fact]
    public void ATakeIsPlacedAtItsTimeMovedTakenOffAndAllOfThatIsUndone()
    {
        var take = Take("Cello 01.wav", 2.5);
        _session.List(take).Save();
        var before = Tree.Of(_session.Folder);
        var place = Apply(new TakeChange(take, Place: new TakePlace(null, null)));
        Assert.Equal("Place 1 take; no sound is changed.", place.Sentence);
        Assert.Equal([("Cello", 2.5)], Placed(take));
        Assert.Equal(FileUse.Placed, _session.Inventory().Files.Single().Use);
        var placed = Tree.Of(_session.Folder);

        var move = Apply(new TakeChange(take, Place: new TakePlace("Samples", 0.25)));
        Assert.Equal("Move 1 take; no sound is changed.", move.Sentence);
        Assert.Equal([("Samples", 0.25)], Placed(take));

        var off = Apply(new TakeChange(take, TakeOff: true));
        Assert.Equal("Take 1 take off its track; no sound is changed.", off.Sentence);
        Assert.Empty(Placed(take));
        Assert.Equal(FileUse.Listed, _session.Inventory().Files.Single().Use);
        // A track from which everything was taken off is as empty as before.
        Assert.Equal(2, SessionDocument.ReadFile(_session.DocumentPath).Root["tracks"]!["children"]!.Items.Count(t => t["children"]!.Items.Count == 0));

        _journal.Apply(UndoPlanner.Plan(off, _journal.Records(off)));
        _journal.Apply(UndoPlanner.Plan(move, _journal.Records(move)));
        Assert.Equal(placed, Tree.Of(_session.Folder));
        _journal.Apply(UndoPlanner.Plan(place, _journal.Records(place)));
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    /// <summary>Takes change places in one plan, and what lies between keeps its time.</summary>
    [Fact]
    public void SeveralAreMovedAtOnceAndNothingElseMoves()
    {
        var (one, two, between) = (Take("Cello 01.wav", 0), Take("Cello 02.wav", 0), Take("Cello 05.wav", 0));
        _session.List(one).List(two).List(between).Save();
        Apply(new(one, Place: new TakePlace(null, 0)), new(between, Place: new TakePlace(null, 1)), new(two, Place: new TakePlace(null, 2)));
        var swap = Apply(new(one, Place: new TakePlace(null, 2)), new(two, Place: new TakePlace(null, 0)));
        Assert.Equal("Move 2 takes; no sound is changed.", swap.Sentence);
        Assert.Equal([("Cello", 2.0)], Placed(one));
        Assert.Equal([("Cello", 0.0)], Placed(two));
        Assert.Equal([("Cello", 1.0)], Placed(between));
        Apply(new(two, TakeOff: true), new(between, TakeOff: true));
        Assert.Equal([("Cello", 2.0)], Placed(one));
    }

    [Fact]
    public void WhatCannotBePlacedIsRefusedByNameAndNothingIsWritten()
    {
        var (first, second, timeless, early, stray) =
            (Take("Cello 01.wav", 1), Take("Cello 02.wav", 1.05), Take("Cello 03.wav", null), Take("Cello 04.wav", 0), Take("hum.wav", 3));
        _session.Document.Root.Set("global_start_time", NeatCrate.Core.Json.JsonItem.Map(
            ("OTIO_SCHEMA", NeatCrate.Core.Json.JsonItem.Of("RationalTime.1")), ("rate", NeatCrate.Core.Json.JsonItem.Of(48000.0)), ("value", NeatCrate.Core.Json.JsonItem.Of(24000.0))));
        _session.Save();
        FaultCode[] Refused(params TakeChange[] changes)
        {
            var plan = Plan(changes);
            Assert.Empty(plan.Steps);
            return [.. plan.Refusals.Codes()];
        }
        var here = new TakePlace(null, null);
        Assert.Equal([FaultCode.TrackOccupied], Refused(new(first, Place: here), new(second, Place: here)));
        Assert.Equal([FaultCode.TakeWithoutTime], Refused(new TakeChange(timeless, Place: here)));
        Assert.Equal([FaultCode.TakeBeforeStart], Refused(new TakeChange(early, Place: here)));
        Assert.Equal([FaultCode.TakeWithoutTrack], Refused(new TakeChange(stray, Place: here)));
        Assert.Equal([FaultCode.NoTake], Refused(new TakeChange("/elsewhere.wav", IsKeeper: true)));
        var growing = TakeLogPlanner.Plan(_session.SessionId, _session.Inventory(), _session.Shelves, new HashSet<string> { first }, [new TakeChange(first, IsKeeper: true)]);
        Assert.Equal([FaultCode.StillGrowing], growing.Refusals.Codes());
        // A chosen track that is new is made.
        Apply(new TakeChange(stray, Place: new TakePlace("Found sounds", null)));
        Assert.Equal([("Found sounds", 2.5)], Placed(stray));
    }

    /// <summary>In another program's document: a dissolve beside the clip, a stack around it. What cannot be done without changing what plays is refused.</summary>
    [Theory]
    [InlineData("""[CLIP, {"OTIO_SCHEMA": "Transition.1", "in_offset": TIME, "out_offset": TIME}, OTHER]""", FaultCode.ClipInTransition)]
    [InlineData("""[{"OTIO_SCHEMA": "Stack.1", "children": [{"OTIO_SCHEMA": "Track.1", "name": "inner", "children": [CLIP]}]}]""", FaultCode.ClipInStack)]
    public void WhatPlaysOnIsLeftAlone(string children, FaultCode expected)
    {
        var take = Take("Cello 01.wav", 1);
        const string Time = """{"OTIO_SCHEMA": "RationalTime.1", "rate": 48000.0, "value": 480.0}""";
        string Clip(string url) => $$$"""
            {"OTIO_SCHEMA": "Clip.1", "name": "c", "source_range": {"OTIO_SCHEMA": "TimeRange.1", "start_time": {{{Time}}}, "duration": {{{Time}}}},
             "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "{{{url}}}"}}
            """;
        var row = children.Replace("CLIP", Clip("Audio/Cello%2001.wav"), StringComparison.Ordinal).Replace("OTHER", Clip("Audio/x.wav"), StringComparison.Ordinal).Replace("TIME", Time, StringComparison.Ordinal);
        File.WriteAllText(_session.DocumentPath, $$$"""
            {"OTIO_SCHEMA": "Timeline.1", "name": "n", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": [{"OTIO_SCHEMA": "Track.1", "name": "Cello", "children": {{{row}}}}]}}
            """);
        Assert.Equal([expected], Plan(new TakeChange(take, TakeOff: true)).Refusals.Codes());
    }

    /// <summary>A gap that somebody marked or named is no mere silence: it stays as it is, and all else keeps its time.</summary>
    [Fact]
    public void AGapThatSomebodyWroteOnStays()
    {
        var (take, other) = (Take("Cello 01.wav", 0), Take("Cello 02.wav", 0));
        _session.List(take).List(other).Save();
        Apply(new(take, Place: new TakePlace(null, 1)), new(other, Place: new TakePlace(null, 3)));
        var text = File.ReadAllText(_session.DocumentPath);
        var gap = text.IndexOf("\"Gap.1\"", StringComparison.Ordinal);
        var name = text.IndexOf("\"name\": \"\"", gap, StringComparison.Ordinal);
        File.WriteAllText(_session.DocumentPath, text[..name] + "\"name\": \"count-in\"" + text[(name + 10)..]);
        Apply(new TakeChange(take, TakeOff: true));
        Assert.Equal([("Cello", 3.0)], Placed(other));
        Assert.Contains("\"count-in\"", File.ReadAllText(_session.DocumentPath), StringComparison.Ordinal);
    }

    /// <summary>Every byte of a document that another program wrote stays, but for what is added of ours.</summary>
    [Fact]
    public void AnotherProgramsDocumentKeepsItsBytes()
    {
        var take = Take("Cello 01.wav", 1);
        const string Text = "{\r\n\t\"OTIO_SCHEMA\": \"Timeline.1\",\r\n\t\"odd\": [1.50, 1E+2],\r\n\t\"tracks\": {\"OTIO_SCHEMA\": \"Stack.1\", \"children\": []}\r\n}\r\n";
        File.WriteAllText(_session.DocumentPath, Text);
        Apply(new TakeChange(take, IsKeeper: true));
        var after = File.ReadAllText(_session.DocumentPath);
        Assert.StartsWith(Text[..Text.LastIndexOf("\r\n}", StringComparison.Ordinal)], after, StringComparison.Ordinal);
        Assert.True(Label(take)!.IsKeeper);
    }

    [Fact]
    public void TracksStandAcrossAndPassesDown()
    {
        Take("Cello 01.wav", 1);
        Take("Cello 02.wav", 2);
        Take("hum.wav", 3);
        Take("Samples 07.wav", null);
        _session.Save();
        var log = TakeLog.Of(TakeFinder.Find(_session.Inventory()), ["Samples", "Cello", "Unused"]);
        Assert.Equal(["Samples", "Cello"], log.Tracks);
        Assert.Equal(
            [(2, null, "Cello 01.wav,Cello 02.wav,hum.wav"), (null, 7, "Samples 07.wav")],
            log.Rows.Select(r => (r.Pass, r.Number, string.Join(',', r.Takes.Select(t => t.File.Name)))));
    }
}
