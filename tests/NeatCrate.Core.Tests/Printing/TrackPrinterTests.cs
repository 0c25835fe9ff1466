using System.Buffers.Binary;
using System.Text.Json.Nodes;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Printing;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Printing;

/// <summary>What is printed, what is not and is named, and what a crossfade is.</summary>
public sealed class TrackPrinterTests : IDisposable
{
    private const int Rate = 48_000;
    private const int Length = 4800;

    private static readonly int[] StackSamples = [0, 99, 100, 299, 300, 349, 350];
    private static readonly int[] FadeSamples = [0, 1, 9, 10, 89, 90, 99];

    private readonly SessionFixture _session = new();
    private readonly PrintedDocument _document = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A file of one value, or of one for each channel.</summary>
    private string Flat(string name, int bits = 24, int rate = Rate, ulong timeReference = 0, int length = Length, params float[] values)
    {
        var path = _session.Inside("Audio", name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using var stream = File.Create(path);
        using var writer = new WavWriter(stream, new PcmFormat(rate, values.Length, bits), timeReference == 0 ? null : new BroadcastExtension("", "", "", "", "", timeReference));
        var frames = Enumerable.Repeat(values, length).SelectMany(v => v);
        if (bits == 32)
        {
            writer.Write([.. frames]);
        }
        else
        {
            writer.Write([.. frames.Select(v => (int)(v * (1 << (bits - 1))))]);
        }
        return "Audio/" + name;
    }

    private static JsonObject Clip(string url, long start = 0, long length = Length) => PrintedDocument.Clip(Path.GetFileNameWithoutExtension(url), url, PrintedDocument.Range(start, length, Rate), Length);

    private static JsonObject Effect(string schema, string name) => new() { ["OTIO_SCHEMA"] = schema, ["name"] = name, ["effect_name"] = "", ["metadata"] = new JsonObject() };

    private static T With<T>(T item, string list, JsonNode value) where T : JsonNode
    {
        item[list]!.AsArray().Add(value);
        return item;
    }

    private SessionPrint Print(string json, PrintChoice? choice = null)
    {
        File.WriteAllText(_session.DocumentPath, json);
        return TrackPrinter.Of(_session.Inventory(), _session.Shelves, choice ?? new PrintChoice(), new DateTimeOffset(2026, 10, 14, 23, 30, 5, TimeSpan.Zero))!;
    }

    private SessionPrint Print(PrintChoice? choice, params JsonNode[] items)
    {
        _document.Track("Voice", items);
        return Print(_document.ToJson(24), choice);
    }

    /// <summary>Makes the print through a plan, and reads it back.</summary>
    private float[] Sound(TrackPrint track, out MediaHeader header)
    {
        var path = Path.Combine(_session.Outbox, track.FileName!);
        new MemoryJournal().Apply(new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Bundle,
            SessionId = _session.SessionId,
            Sentence = "",
            WritableRoots = [_session.Outbox],
            Steps = [new MakeFileStep(path, "printed", track.Print!, track.Print!.Bytes)],
        });
        Assert.Equal(track.Print!.Bytes, new FileInfo(path).Length);
        // The size that a RIFF file states is its own without the first eight bytes, a pad byte included (RIFF MCI, "RIFF File Format").
        Assert.Equal(track.Print!.Bytes - 8, BinaryPrimitives.ReadUInt32LittleEndian(File.ReadAllBytes(path).AsSpan(4)));
        header = MediaHeaderReader.ReadFile(path)!;
        using var reader = SoundReader.Open(path, header);
        var samples = new float[reader.LengthSamples * reader.Channels];
        Assert.Equal(reader.LengthSamples, reader.Read(samples));
        return samples;
    }

    private static string Told(TrackPrint track) => string.Join("; ", track.Notes.Select(n => n.Sentence));

    /// <summary>Of one sound with itself a crossfade of equal gain is that sound; between two it is a straight line, sample by sample.</summary>
    [Fact]
    public void EqualGainIsAStraightLine()
    {
        var (high, low) = (Flat("high.wav", values: [0.5f]), Flat("low.wav", values: [-0.25f]));
        var sound = Sound(Print(null, Clip(high, 100, 1000), PrintedDocument.Transition(50, 50, Rate), Clip(low, 100, 1000)).Tracks[0], out var header);
        Assert.Equal((24, 1, 2000L), (header.BitsPerSample, header.Channels, header.LengthSamples));
        Assert.Equal((0.5f, -0.25f), (sound[949], sound[1050]));
        for (var n = 0; n < 100; n++)
        {
            Assert.Equal(0.5 - (0.75 * (n + 0.5) / 100), sound[950 + n], 1e-6);
        }
        _document.Clear();
        var same = Sound(Print(null, Clip(high, 100, 1000), PrintedDocument.Transition(50, 50, Rate), Clip(high, 1100, 1000)).Tracks[0] with { FileName = "same.wav" }, out _);
        Assert.All(same, s => Assert.Equal(0.5f, s));
    }

    /// <summary>The squares of both sides make 1; what may be louder than integers hold is printed in floating point.</summary>
    [Fact]
    public void EqualPowerIsAQuarterOfASine()
    {
        var (high, low) = (Flat("high.wav", values: [0.9f]), Flat("low.wav", values: [0.9f]));
        var print = Print(new PrintChoice(CrossfadeLaw.EqualPower), Clip(high, 100, 1000), PrintedDocument.Transition(0, 100, Rate), Clip(low, 100, 1000)).Tracks[0];
        var sound = Sound(print, out var header);
        Assert.Equal(SampleEncoding.FloatingPoint, header.Encoding);
        for (var n = 0; n < 100; n++)
        {
            var x = (n + 0.5) / 100 * Math.PI / 2;
            Assert.Equal(0.9 * (Math.Sin(x) + Math.Cos(x)), sound[1000 + n], 1e-5);
        }
        Assert.True(sound.Max() > 1.2f);
        Assert.True(_document.Clear().Track("Voice", Clip(high)) is not null && Print(_document.ToJson(24), new PrintChoice(CrossfadeLaw.EqualPower)).Tracks[0].Print!.Format.BitsPerSample == 24);
    }

    /// <summary>A crossfade with nothing on one side is a fade; three sounds at once may be louder than integers hold.</summary>
    [Fact]
    public void AFadeLeadsFromAndToSilence()
    {
        var high = Flat("high.wav", values: [0.5f]);
        var sound = Sound(Print(null, PrintedDocument.Transition(0, 10, Rate), Clip(high, 100, 100), PrintedDocument.Transition(10, 0, Rate)).Tracks[0], out _);
        Assert.Equal(100, sound.Length);
        Assert.Equal([0.025f, 0.075f, 0.475f, 0.5f, 0.5f, 0.475f, 0.025f], [.. FadeSamples.Select(n => (float)Math.Round(sound[n], 5))]);
        _document.Clear();
        var three = Print(null, Clip(high, 100, 100), PrintedDocument.Transition(0, 80, Rate), Clip(high, 100, 50), PrintedDocument.Transition(40, 0, Rate), Clip(high, 100, 100)).Tracks[0];
        Assert.Equal(32, three.Print!.Format.BitsPerSample);
    }

    /// <summary>What cannot be printed truly is not printed: the track is named with the reason, and the others are there.</summary>
    [Fact]
    public void WhatCannotBePrintedTrulyIsNamedAndNotPrinted()
    {
        var (here, slow, wide, many) = (Flat("here.wav", values: [0.5f]), Flat("slow.wav", rate: 44_100, values: [0.5f]), Flat("wide.wav", values: [0.5f, 0.4f]), Flat("many.wav", values: [0.1f, 0.2f, 0.3f]));
        File.WriteAllBytes(_session.Inside("Audio", "line.mid"), [.. "MThd"u8]);
        void Track(string name, params JsonNode[] items) => _document.Track(name, items);
        Track("sound", Clip(here));
        Track("slowed", Clip(here), With(Clip(here), "effects", Effect("LinearTimeWarp.1", "Half speed")));
        Track("line", Clip("Audio/line.mid"));
        Track("rate", Clip(slow));
        Track("channels", Clip(wide), Clip(many));
        Track("unknown", PrintedDocument.Item("Clip.2", "endless", null, ("media_references", new JsonObject { ["DEFAULT_MEDIA"] = new JsonObject { ["OTIO_SCHEMA"] = "MissingReference.1" } })), Clip(here));
        _document.Track("frozen", Clip(here))["effects"]!.AsArray().Add(Effect("FreezeFrame.1", ""));
        var printed = Print(_document.ToJson(24));
        Assert.Equal(
        [
            "sound: ",
            "slowed: 'Half speed' changes its speed",
            "line: 'line.mid' is no sound by itself",
            "rate: 'slow.wav' has another sample rate",
            "channels: 'wide.wav' has another number of channels",
            "unknown: nothing tells how long 'endless' lasts",
            "frozen: 'frozen' changes its speed",
        ], printed.Tracks.Select(t => $"{t.Name}: {Told(t)}"));
        Assert.Equal(["01 sound.wav"], printed.Printed.Select(t => t.FileName));
        Assert.Equal(6, printed.Tracks.Count(t => t.IsRefused));
    }

    /// <summary>What the session leaves out is left out, and no refusal: tracks and clips that are switched off, pictures, what is empty.</summary>
    [Fact]
    public void WhatTheSessionLeavesOutIsLeftOut()
    {
        var here = Flat("here.wav", values: [0.5f]);
        var off = Clip(here, 0, 100);
        off["enabled"] = false;
        _document.Track("muted", Clip(here, 0, 4000))["enabled"] = false;
        _document.Track("pictures", Clip(here, 0, 4000))["kind"] = "Video";
        _document.Track("empty", PrintedDocument.Gap(300, Rate));
        _document.Track("part", off, Clip(here, 0, 100));
        var printed = Print(_document.ToJson(24));
        Assert.Equal(["muted: switched off in the session", "pictures: holds pictures", "empty: nothing is placed on it", "part: 'here' (0:00) is switched off, and left out"], printed.Tracks.Select(t => $"{t.Name}: {Told(t)}"));
        Assert.DoesNotContain(printed.Tracks, t => t.IsRefused);
        // Of all that sounds the last thing, an empty stretch included; what is left out does not count.
        Assert.Equal(300, printed.LengthSamples);
        var sound = Sound(printed.Printed.Single(), out _);
        Assert.Equal((0f, 0.5f, 0.5f, 0f), (sound[99], sound[100], sound[199], sound[200]));
    }

    /// <summary>What is missing, away or past the end of its file is silence, and named with its place.</summary>
    [Fact]
    public void WhatIsNotThereIsSilentAndNamed()
    {
        var here = Flat("here.wav", values: [0.5f]);
        var away = "file://" + Path.Combine(_session.Laptop, "away.wav");
        var track = Print(null, Clip("Audio/gone.wav", 0, 100), Clip(away, 0, 100), Clip(here, 4700, 200), Clip(here, 9000, 100), PrintedDocument.Transition(0, 0, Rate), Clip(here, 0, 100)).Tracks[0];
        Assert.Equal(
            "silent where 'gone.wav' should play (0:00, for 0.002 s); silent where 'away.wav' should play (0:00, for 0.002 s); silent past the end of 'here.wav' (0:00, for 0.002 s); silent past the end of 'here.wav' (0:00, for 0.002 s)", Told(track));
        var sound = Sound(track, out _);
        Assert.Equal((0f, 0f, 0.5f, 0.5f, 0f, 0f, 0.5f), (sound[0], sound[199], sound[200], sound[299], sound[300], sound[499], sound[500]));
    }

    /// <summary>An effect changes the sound and stands in no file: the print is named as what it is.</summary>
    [Fact]
    public void APrintWithoutItsEffectsSaysSo()
    {
        var here = Flat("here.wav", values: [0.5f]);
        var bypassed = Effect("Effect.1", "Off");
        bypassed["enabled"] = false;
        _document.Track("Voice", With(Clip(here), "effects", Effect("Effect.1", "Room")));
        _document.Track("Dry", With(Clip(here), "effects", bypassed));
        var printed = Print(_document.ToJson(24));
        Assert.Equal(["01 Voice (without effects).wav", "02 Dry.wav"], printed.Printed.Select(t => t.FileName));
        Assert.Equal(["without its effect 'Room'", ""], printed.Tracks.Select(Told));
    }

    /// <summary>By choice a file of another rate is converted, to the length that time has at the new rate; integers of it would not be those of anybody.</summary>
    [Fact]
    public void ByChoiceOtherRatesAreConverted()
    {
        var (slow, other) = (Flat("slow.wav", rate: 44_100, length: 44_100, values: [0.5f]), Flat("other.wav", rate: 32_000, length: 32_000, values: [0.25f]));
        var track = Print(new PrintChoice(ConvertsRates: true), Clip(slow, 10_000, 10_000), Clip(other, 10_000, 10_000), Clip(slow, 10_000, 10_000)).Tracks[0];
        Assert.Equal("'slow.wav' was converted to the rate of the session; 'other.wav' was converted to the rate of the session", Told(track));
        var sound = Sound(track, out var header);
        Assert.Equal((SampleEncoding.FloatingPoint, Rate, 30_000L), (header.Encoding, header.SampleRate, header.LengthSamples));
        Assert.Equal((0.5, 0.25, 0.5), (Math.Round(sound[5000], 4), Math.Round(sound[15_000], 4), Math.Round(sound[25_000], 4)));
        Assert.DoesNotContain(Directory.GetFiles(_session.Outbox), f => f.EndsWith(".part", StringComparison.Ordinal));
    }

    /// <summary>A file with one channel sounds on both of a track with two.</summary>
    [Fact]
    public void OneChannelSoundsOnBoth()
    {
        var (mono, stereo) = (Flat("mono.wav", values: [0.25f]), Flat("stereo.wav", values: [0.5f, -0.5f]));
        var sound = Sound(Print(null, Clip(mono, 0, 100), Clip(stereo, 0, 100)).Tracks[0], out var header);
        Assert.Equal((2, 24), (header.Channels, header.BitsPerSample));
        Assert.Equal([0.25f, 0.25f, 0.5f, -0.5f], new[] { sound[198], sound[199], sound[200], sound[201] });
    }

    /// <summary>A file that counts from midnight is read from where the document means, where only one reading lies within it; where both do, nobody knows.</summary>
    [Fact]
    public void WhereAFileBeginsIsKnownOrNot()
    {
        JsonObject Unstated(string url, long start)
        {
            var clip = Clip(url, start, 100);
            clip["media_references"]!["DEFAULT_MEDIA"]!["available_range"] = null;
            return clip;
        }
        var (late, early) = (Flat("late.wav", timeReference: 480_000, values: [0.5f]), Flat("early.wav", timeReference: 1000, values: [0.5f]));
        _document.Track("from midnight", Unstated(late, 480_000 + 100));
        _document.Track("from its start", Unstated(late, 100));
        _document.Track("both", Unstated(early, 1100));
        var printed = Print(_document.ToJson(24));
        Assert.Equal([(long?)100, 100, null], printed.Tracks.Select(t => t.Print?.Pieces.Single().SourceStart));
        Assert.Equal("nothing tells where in its file 'early.wav' begins", Told(printed.Tracks[2]));
    }

    /// <summary>What the header says, as soxi and ffprobe read it: rate, bits, where on the day it begins, and what it is.</summary>
    [Fact]
    public void OtherToolsReadWhatItSays()
    {
        var here = Flat("here.wav", values: [0.5f]);
        _document.Track("Voice: loud?", Clip(here, 0, 481));
        var track = Print(_document.ToJson(24, start: 3600)).Tracks[0];
        Sound(track, out var header);
        var path = Path.Combine(_session.Outbox, "01 Voice loud.wav");
        Assert.Equal("481", Tool.Run("soxi", "-s", path).Trim());
        Assert.Equal("24", Tool.Run("soxi", "-b", path).Trim());
        Assert.Equal(3600UL * Rate, header.Broadcast!.TimeReference);
        var told = Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags", path);
        Assert.Contains("time_reference=172800000", told, StringComparison.Ordinal);
        Assert.Contains("comment=" + SessionFixture.Name + ": Voice: loud?", told, StringComparison.Ordinal);
        Assert.Contains("date=2026-10-14", told, StringComparison.Ordinal);
    }

    /// <summary>Beyond four gigabytes it is RF64, which ffprobe and we read with its whole length (EBU Tech 3306).</summary>
    [Fact]
    public void BeyondFourGigabytesItIsRf64()
    {
        var format = new PcmFormat(Rate, 2, 24);
        var length = 5L * 3600 * Rate;
        var header = WavWriter.HeaderOf(format, null, length);
        var path = Path.Combine(_session.Outbox, "long.wav");
        using (var stream = File.Create(path))
        {
            stream.Write(header);
            stream.SetLength(WavWriter.BytesOf(header, format, length));
        }
        var read = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal(("RF64", (long?)length, false), (read.Container, read.LengthSamples, read.Unfinished));
        Assert.Contains("duration=18000.000000", Tool.Run("ffprobe", "-v", "error", "-show_entries", "format=duration", path), StringComparison.Ordinal);
    }

    /// <summary>A file that was swapped after the plan was made is not printed, and nothing half-made stays.</summary>
    [Fact]
    public void WhatWasSwappedIsNotPrinted()
    {
        var here = Flat("here.wav", values: [0.5f]);
        var track = Print(null, Clip(here)).Tracks[0];
        Flat("here.wav", length: Length + 1, values: [0.1f]);
        Assert.Equal(FaultCode.SourceChanged, Assert.Throws<PlanRefusedException>(() => Sound(track, out _)).Fault.Code);
        Assert.Empty(Directory.GetFiles(_session.Outbox));
        // The document, too, is the one that was looked at.
        var inventory = _session.Inventory();
        File.AppendAllText(_session.DocumentPath, " ");
        Assert.Equal(FaultCode.SourceChanged, Assert.Throws<FaultException>(() => TrackPrinter.Of(inventory, _session.Shelves, new PrintChoice(), default)).Fault.Code);
    }

    /// <summary>A file that is written to while it is printed is a mixture that never was: no print comes of it.</summary>
    [Fact]
    public void WhatChangesMeanwhileIsNotPrinted()
    {
        var track = Print(null, Clip(Flat("here.wav", values: [0.5f]))).Tracks[0];
        using var reading = new OriginReading(new DurableFiles(), cancel: TestContext.Current.CancellationToken);
        var sink = new CallingSink(() => File.AppendAllText(_session.Inside("Audio", "here.wav"), "more"));
        Assert.Equal(FaultCode.SourceChanged, Assert.Throws<FaultException>(() => track.Print!.WriteTo(sink, reading)).Fault.Code);
    }

    /// <summary>Calls once the first samples are written.</summary>
    private sealed class CallingSink(Action then) : IByteSink
    {
        private int _writes;

        public long Length { get; private set; }

        public Stream? Seekable => null;

        public void Write(ReadOnlySpan<byte> bytes)
        {
            Length += bytes.Length;
            if (++_writes == 2)
            {
                then();
            }
        }

        public string Scratch(ScratchUse use) => throw new NotSupportedException();
    }

    /// <summary>A file whose header promises more than can be decoded is no silence that anybody chose.</summary>
    [Fact]
    public void WhatIsCutShortIsNotPrinted()
    {
        SessionFixture.Sound(_session.Inside("Audio", "here.wav"), 20 * Length);
        Tool.Run("sox", _session.Inside("Audio", "here.wav"), _session.Inside("Audio", "here.flac"));
        var path = _session.Inside("Audio", "here.flac");
        var bytes = File.ReadAllBytes(path);
        File.WriteAllBytes(path, bytes[..(bytes.Length * 2 / 3)]);
        var track = Print(null, Clip("Audio/here.flac", 0, 20 * Length)).Tracks[0];
        using var reading = new OriginReading(new DurableFiles(), cancel: TestContext.Current.CancellationToken);
        Assert.Equal(FaultCode.SoundCutShort, Assert.Throws<FaultException>(() => MemorySink.Read(track.Print!, int.MaxValue, reading)).Fault.Code);
    }

    /// <summary>A stack that shows only a part of its time begins with that part.</summary>
    [Fact]
    public void AStackShowsAPartOfItsTime()
    {
        var (one, two) = (Flat("one.wav", values: [0.5f]), Flat("two.wav", values: [0.25f]));
        _document.Track("Voice", Clip(one, 0, 1000), Clip(two, 0, 1000));
        var json = JsonNode.Parse(_document.ToJson(24))!;
        json["tracks"]!["source_range"] = PrintedDocument.Range(900, 200, Rate);
        json["tracks"]!["markers"]!.AsArray().Add(Marker("Verse", 900 + 48));
        json["tracks"]!["children"]![0]!["children"]![1]!["markers"]!.AsArray().Add(Marker("Breath", 50));
        var printed = Print(json.ToJsonString());
        var sound = Sound(printed.Tracks[0], out _);
        Assert.Equal((200, 0.5f, 0.25f), (sound.Length, sound[99], sound[100]));
        Assert.Equal([("Verse", 0.001), ("Breath", 150.0 / Rate)], printed.Tempo.Markers.Select(m => (m.Name, m.Seconds)));
    }

    /// <summary>In a stack each is as long as it is: a short clip beside a long one ends where its range does, and so does a track of which only a part is shown.</summary>
    [Fact]
    public void InAStackEachIsAsLongAsItIs()
    {
        var (one, two) = (Flat("one.wav", values: [0.5f]), Flat("two.wav", values: [0.25f]));
        _document.Track("stacked", PrintedDocument.Item("Stack.1", "both", null, ("children", new JsonArray(Clip(one, 0, 100), Clip(two, 0, 300)))), Clip(one, 0, 50));
        var part = _document.Track("part", Clip(one, 0, 400));
        part["source_range"] = PrintedDocument.Range(100, 50, Rate);
        var json = JsonNode.Parse(_document.ToJson(24))!;
        json["tracks"]!["source_range"] = PrintedDocument.Range(0, 600, Rate);
        json["tracks"]!["children"]!.AsArray().Add(Clip(two, 0, 200));
        var printed = Print(json.ToJsonString());
        Assert.Equal(600, printed.LengthSamples);
        var stacked = Sound(printed.Tracks[0], out _);
        Assert.Equal([0.75f, 0.75f, 0.25f, 0.25f, 0.5f, 0.5f, 0f], [.. StackSamples.Select(n => stacked[n])]);
        var shown = Sound(printed.Tracks[1], out _);
        Assert.Equal((0.5f, 0f), (shown[49], shown[50]));
        // What stands in the stack by itself is a track of one clip.
        var alone = Sound(printed.Tracks[2], out _);
        Assert.Equal((0.25f, 0f), (alone[199], alone[200]));
    }

    private static JsonObject Marker(string name, long at) => new() { ["OTIO_SCHEMA"] = "Marker.2", ["name"] = name, ["metadata"] = new JsonObject(), ["color"] = "RED", ["marked_range"] = PrintedDocument.Range(at, 0, Rate) };
}
