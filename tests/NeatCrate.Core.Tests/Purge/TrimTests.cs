using System.Globalization;
using CsCheck;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Purge;

public sealed class TrimTests : IDisposable
{
    private const int Rate = 48000;
    private const int Length = 20 * Rate;

    private readonly PurgeFixture _purge = new();

    private SessionFixture Session => _purge.Session;

    public void Dispose() => _purge.Dispose();

    private static TrimRequest Request(PurgeFixture purge, TrimChoice choice, bool elsewhere) =>
        new(purge.Session.SessionId, purge.World(), purge.Session.Shelves, choice, PurgeFixture.Now)
        {
            CopyTo = elsewhere ? purge.Session.Outbox : null,
            CopyName = elsewhere ? "Net Mender trimmed" : "",
        };

    // ----- documents

    private static JsonItem Time(double value, double rate) => JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("RationalTime.1")), ("rate", JsonItem.Of(rate)), ("value", JsonItem.Of(value)));

    private static JsonItem TimeRange(double start, double duration, double rate) =>
        JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("TimeRange.1")), ("start_time", Time(start, rate)), ("duration", Time(duration, rate)));

    private static JsonItem Clip(string url, double start, double duration, double rate, double? available, bool bends)
    {
        var reference = JsonItem.Map(
            ("OTIO_SCHEMA", JsonItem.Of("ExternalReference.1")),
            ("target_url", JsonItem.Of(url)),
            ("available_range", available is { } at ? TimeRange(at, Length, Rate) : JsonItem.Null()));
        // Where the document says at which time the file begins, clips count from there.
        var begins = (available ?? 0) / Rate * rate;
        return JsonItem.Map(
            ("OTIO_SCHEMA", JsonItem.Of("Clip.2")),
            ("name", JsonItem.Of("clip")),
            ("source_range", TimeRange(start + begins, duration, rate)),
            ("effects", JsonItem.List(bends ? [JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("LinearTimeWarp.1")), ("time_scalar", JsonItem.Of(1.5)))] : [])),
            ("markers", JsonItem.List([JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Marker.2")), ("marked_range", TimeRange(start + begins, 0, rate)))])),
            ("media_references", JsonItem.Map(("DEFAULT_MEDIA", reference))),
            ("active_media_reference_key", JsonItem.Of("DEFAULT_MEDIA")));
    }

    private static JsonItem Transition(double rate) => JsonItem.Map(
        ("OTIO_SCHEMA", JsonItem.Of("Transition.1")), ("in_offset", Time(rate / 8, rate)), ("out_offset", Time(rate / 4, rate)));

    private sealed record Piece(int File, int Units, int Start, int Duration, bool Available, bool Bends, bool Crossed, bool Nested);

    private static readonly double[] Units = [48000, 24, 25, 24000 / 1001.0, 30000 / 1001.0, 44100, 1];

    private static readonly string[] Files = ["Audio/one.wav", "Audio/two.aif", "Audio/three.flac", "Audio/four%41.wav", "Audio/five.wav"];

    private static readonly Gen<Piece[]> Pieces = Gen.Select(
        Gen.Int[0, 4], Gen.Int[0, 6], Gen.Int[0, 15_000], Gen.Int[1, 4_000], Gen.Bool, Gen.Int[0, 11], Gen.Int[0, 4], Gen.Int[0, 4],
        (file, units, start, duration, available, bends, crossed, nested) => new Piece(file, units, start, duration, available, bends == 0, crossed == 0, nested == 0)).Array[1, 9];

    /// <summary>A document of random clips: of several rates, whole and fractional, with transitions, time effects and stacks within stacks.</summary>
    private static void Fill(SessionFixture session, Piece[] pieces)
    {
        var children = session.Document.Root["tracks"]!["children"]!.Items[0]["children"]!;
        foreach (var piece in pieces)
        {
            var rate = Units[piece.Units];
            // In milliseconds, as whole numbers of the clip's own units.
            var (start, duration) = (Math.Floor(piece.Start * rate / 1000), Math.Max(1, Math.Floor(piece.Duration * rate / 1000)));
            var clip = Clip(MediaUrl.From(session.Inside(Files[piece.File].Split('/')), session.Folder), start, duration, rate, piece.Available ? Rate * 3600L : null, piece.Bends);
            children.Add(piece.Nested
                ? JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Stack.1")), ("children", JsonItem.List([JsonItem.Map(("OTIO_SCHEMA", JsonItem.Of("Track.1")), ("children", JsonItem.List([clip])))])))
                : clip);
            if (piece.Crossed)
            {
                children.Add(Transition(rate));
            }
        }
    }

    private static void Sounds(SessionFixture session)
    {
        foreach (var (name, seed) in Files.Select((f, n) => (session.Inside(f.Split('/')), n)))
        {
            Directory.CreateDirectory(Path.GetDirectoryName(name)!);
            // Noise made outside of the project: SoX, which writes all three formats.
            Tool.Run("sox", "-R", "-r", "48000", "-n", "-b", "24", "-c", seed == 1 ? "2" : "1", name, "synth", "20", "pinknoise", "gain", "-6");
        }
    }

    /// <summary>The samples that a reference plays, cut out by SoX.</summary>
    private static string Played(string path, SampleRange range) => Tool.Run("sh", "-c", string.Create(
        CultureInfo.InvariantCulture, $"sox '{path}' -t raw -e signed -b 24 - trim {range.Start}s {range.Length}s | sha1sum"));

    private static List<string> Render(string folder)
    {
        var inventory = new InventoryReader(new HeaderCache()).Read(folder, null, [], TestContext.Current.CancellationToken);
        var rendered = new List<string>();
        foreach (var document in inventory.Documents.OrderBy(d => Path.GetFileName(d.Path), StringComparer.Ordinal))
        {
            foreach (var reference in document.Document!.References.Where(r => r.Placed))
            {
                var path = ReferencedPath.Of(reference.TargetUrl, document, inventory.Folder, []);
                var file = inventory.Files.Single(f => f.Path == path);
                Assert.Equal(Standing.Inside, file.Standing);
                var range = SampleRange.Of(reference.Source, reference.AvailableStart, Rate, file.Header!.LengthSamples!.Value);
                rendered.Add(reference.Source is null ? $"all of {Played(path, range)}" : Played(path, range));
            }
        }
        return rendered;
    }

    /// <summary>Whatever the documents are like: after trimming, each clip of each of them plays the same samples, as SoX cuts them out of the originals.</summary>
    [Fact]
    public void EveryClipPlaysTheSameSamples()
    {
        using var sounds = new SessionFixture();
        Sounds(sounds);
        var trimmed = 0;
        Gen.Select(Pieces, Pieces, Gen.Int[0, 3], Gen.Int[0, 2500], Gen.Bool, Gen.Bool).Sample(
            (today, yesterday, handle, join, perPart, elsewhere) =>
            {
                using var purge = new PurgeFixture();
                foreach (var file in Files)
                {
                    Directory.CreateDirectory(purge.Session.Inside("Audio"));
                    File.Copy(sounds.Inside(file.Split('/')), purge.Session.Inside(file.Split('/')));
                }
                Fill(purge.Session, yesterday);
                purge.Session.Save(purge.Session.Inside("Older documents", "261013 Net Mender.otio"));
                Fill(purge.Session, today);
                purge.Session.Save();
                var before = Render(purge.Session.Folder);
                var plan = TrimPlanner.Plan(Request(purge, new TrimChoice(handle / 2.0, join / 1000.0, perPart ? TrimPieces.OnePerPart : TrimPieces.OneFile), elsewhere));
                if (plan.Refusals.Any(r => r.Code == FaultCode.NothingToTrim))
                {
                    return;
                }
                purge.Apply(plan);
                trimmed++;
                var after = elsewhere ? Path.Combine(purge.Session.Outbox, "Net Mender trimmed") : purge.Session.Folder;
                Assert.Equal(before, Render(after));
                if (elsewhere)
                {
                    Assert.Equal(before, Render(purge.Session.Folder));
                }
            },
            iter: 24, threads: 1);
        Assert.True(trimmed > 12, $"{trimmed} were trimmed");
    }

    // ----- clips of several references

    /// <summary>What the reference of a clip may be like: whether it says at which time its file begins, and what else uses the file.</summary>
    public enum ReferenceKind
    {
        Stated,
        Bare,
        BareAtTheFront,
        Lossy,
        LossyStated,
        StatedAndUsedElsewhere,
        BareAndUsedElsewhere,
        BareAndAllUsed,
        StatedAndAllUsed,
    }

    public static TheoryData<ReferenceKind, ReferenceKind> Pairs => [.. from one in Enum.GetValues<ReferenceKind>() from other in Enum.GetValues<ReferenceKind>() select (one, other)];

    private static readonly Lazy<SessionFixture> PairSounds = new(() =>
    {
        var session = new SessionFixture();
        foreach (var (n, name) in new[] { "one.wav", "two.wav", "one.ogg", "two.ogg" }.Index())
        {
            Directory.CreateDirectory(session.Inside("Audio"));
            Tool.Run("sox", "-R", "-r", "48000", "-n", "-c", "1", session.Inside("Audio", name), "synth", "20", n % 2 == 0 ? "pinknoise" : "brownnoise", "gain", "-6");
        }
        return session;
    });

    /// <summary>A clip has one source range for all of its references: whichever two it holds, each plays the same samples after a trim.</summary>
    [Theory]
    [MemberData(nameof(Pairs))]
    public void AClipOfSeveralReferencesPlaysTheSameThroughEachOfThem(ReferenceKind one, ReferenceKind other)
    {
        foreach (var (elsewhere, pieces) in new[] { (true, TrimPieces.OneFile), (true, TrimPieces.OnePerPart), (false, TrimPieces.OneFile), (false, TrimPieces.OnePerPart) })
        {
            using var purge = new PurgeFixture();
            Directory.CreateDirectory(purge.Session.Inside("Audio"));
            var children = purge.Session.Document.Root["tracks"]!["children"]!.Items[0]["children"]!;
            var start = one == ReferenceKind.BareAtTheFront || other == ReferenceKind.BareAtTheFront ? 0 : 8;
            JsonItem? shared = null;
            foreach (var (kind, stem) in new[] { (one, "one"), (other, "two") })
            {
                var name = stem + (kind is ReferenceKind.Lossy or ReferenceKind.LossyStated ? ".ogg" : ".wav");
                File.Copy(PairSounds.Value.Inside("Audio", name), purge.Session.Inside("Audio", name));
                // Times of the clip count from the hour where a reference says that its file begins there, and from its first sample elsewhere.
                var stated = kind is ReferenceKind.Stated or ReferenceKind.LossyStated or ReferenceKind.StatedAndUsedElsewhere or ReferenceKind.StatedAndAllUsed;
                var clip = Clip("Audio/" + name, start * Rate, 2 * Rate, Rate, stated ? 0 : null, bends: false);
                if (shared is null)
                {
                    shared = clip;
                    children.Add(clip);
                }
                else
                {
                    shared["media_references"]!.Set("OTHER", clip["media_references"]!["DEFAULT_MEDIA"]!);
                }
                if (kind is ReferenceKind.StatedAndUsedElsewhere or ReferenceKind.BareAndUsedElsewhere)
                {
                    children.Add(Clip("Audio/" + name, (start + 5) * Rate, Rate, Rate, stated ? 0 : null, bends: false));
                }
                if (kind is ReferenceKind.BareAndAllUsed or ReferenceKind.StatedAndAllUsed)
                {
                    children.Add(Clip("Audio/" + name, 0, Length, Rate, stated ? 0 : null, bends: false));
                }
            }
            purge.Session.Save();
            var before = Render(purge.Session.Folder);
            var plan = TrimPlanner.Plan(Request(purge, new TrimChoice(.5, .1, pieces), elsewhere));
            if (plan.Refusals.Any(r => r.Code == FaultCode.NothingToTrim))
            {
                continue;
            }
            purge.Apply(plan);
            Assert.Equal(before, Render(elsewhere ? Path.Combine(purge.Session.Outbox, "Net Mender trimmed") : purge.Session.Folder));
        }
    }

    /// <summary>What says at which time it begins is cut all the same: the rule costs no more than it must.</summary>
    [Fact]
    public void AClipOfTwoStatedReferencesIsTrimmedInBoth()
    {
        using var purge = new PurgeFixture();
        Directory.CreateDirectory(purge.Session.Inside("Audio"));
        var clip = Clip("Audio/one.wav", 8 * Rate, 2 * Rate, Rate, 0, bends: false);
        clip["media_references"]!.Set("OTHER", Clip("Audio/two.wav", 8 * Rate, 2 * Rate, Rate, 0, bends: false)["media_references"]!["DEFAULT_MEDIA"]!);
        purge.Session.Document.Root["tracks"]!["children"]!.Items[0]["children"]!.Add(clip);
        foreach (var name in new[] { "one.wav", "two.wav" })
        {
            File.Copy(PairSounds.Value.Inside("Audio", name), purge.Session.Inside("Audio", name));
        }
        purge.Session.Save();
        Assert.All(TrimJudge.Judge(purge.World(), purge.Session.Shelves, new TrimChoice(), false), t => Assert.Equal(LeftWhole.No, t.Left));
    }

    /// <summary>A kept save is never pointed elsewhere: in place, what it plays is left whole, or its loss is told where saves do not count by choice.</summary>
    [Fact]
    public void InPlaceKeptSavesAreProtectedOrTold()
    {
        var path = Broadcast("Audio/Cello 01.wav");
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(path, Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        Session.Save();
        _purge.KeptSaves = [(path, new DateTime(2026, 10, 14, 20, 0, 0)), (path, new DateTime(2026, 10, 13, 9, 5, 0))];
        var protectedBySaves = TrimPlanner.Plan(Request(_purge, new TrimChoice(), false));
        Assert.Equal([FaultCode.NothingToTrim], protectedBySaves.Refusals.Select(r => r.Code));
        Assert.Equal(LeftWhole.KeptSave, Assert.Single(TrimJudge.Judge(_purge.World(), Session.Shelves, new TrimChoice(), true)).Left);
        // In a copy elsewhere no save misses anything.
        Assert.Empty(TrimPlanner.Plan(Request(_purge, new TrimChoice(), true)).Remarks);
        _purge.Counting = new PurgeCounting(KeptSaves: false);
        var told = Assert.Single(TrimPlanner.Plan(Request(_purge, new TrimChoice(), false)).Remarks);
        Assert.Equal((FaultCode.SavesMiss, 1L, "2026-10-14 20:00, 2026-10-13 09:05"), (told.Code, told.Count, string.Join(", ", told.Names)));
    }

    // ----- what files say of themselves

    private static byte[] Cue(params (uint Id, uint At)[] points)
    {
        using var stream = new MemoryStream();
        using var writer = new BinaryWriter(stream);
        writer.Write(points.Length);
        foreach (var (id, at) in points)
        {
            writer.Write(id);
            writer.Write(at);
            writer.Write("data"u8);
            writer.Write(0);
            writer.Write(0);
            writer.Write(at);
        }
        return stream.ToArray();
    }

    private string Broadcast(string relative, params (string Id, byte[] Body)[] chunks)
    {
        var path = Session.Inside(relative.Split('/'));
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using var stream = File.Create(path);
        using var writer = new WavWriter(
            stream, new PcmFormat(Rate, 1, 24), new BroadcastExtension("Net Mender, Cello 01, pass 1", "recorder", "ref", "2026-10-14", "20:00:00", (1UL << 32) - 1000, 1, "A=PCM,F=48000,W=24,M=mono,T=recorder\r\n"),
            [.. chunks.Select(c => (c.Id, (ReadOnlyMemory<byte>)c.Body))]);
        var random = new Random(5);
        writer.Write([.. Enumerable.Range(0, 10 * Rate).Select(_ => random.Next(-1_000_000, 1_000_000))]);
        return path;
    }

    /// <summary>Time reference, sizes and marks, read by general tools: ffprobe, sndfile-info and soxi.</summary>
    [Fact]
    public void WhatAFileSaysOfItselfMovesAlong()
    {
        var path = Broadcast(
            "Audio/Cello 01.wav", ("cue ", Cue((1, Rate), (2, 4 * Rate), (3, 9 * Rate))), ("quay", [1, 2, 3, 4, 5]),
            ("iXML", "<BWFXML><SPEED><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI>0</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI><TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO>4294966296</TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO></SPEED></BWFXML>"u8.ToArray()));
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("Cello 01", MediaUrl.From(path, Session.Folder), Rate, 10 * Rate, 3 * Rate, 3 * Rate));
        Session.Save();
        _purge.Apply(TrimPlanner.Plan(Request(_purge, new TrimChoice(1), false)));
        var cut = Session.Inside("Audio", "Cello 01 trimmed.wav");
        // Two to seven seconds: the part in use and a second on each side.
        Assert.Equal("240000", Tool.Run("soxi", "-s", cut).Trim());
        Assert.Contains((4294966296UL + (2 * Rate)).ToString(CultureInfo.InvariantCulture), Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags=time_reference", "-of", "csv=p=0", cut), StringComparison.Ordinal);
        var told = Tool.Run("sndfile-info", cut);
        Assert.Contains("Frames      : 240000", told, StringComparison.Ordinal);
        var header = WavHeaderReader.ReadFile(cut);
        Assert.Empty(header.Remarks);
        Assert.Equal("A=PCM,F=48000,W=24,M=mono,T=recorder\r\nA=PCM,F=48000,W=24,M=mono,T=cut to samples 96000 to 336000 of 480000", header.Broadcast!.CodingHistory.TrimEnd());
        var bytes = File.ReadAllBytes(cut);
        byte[] Body(string id) => header.Chunks.Single(c => c.Id == id) is var c ? bytes[(int)c.Offset..(int)(c.Offset + c.Bytes)] : [];
        Assert.Equal(Cue((2, 2 * Rate)), Body("cue "));
        Assert.Equal([1, 2, 3, 4, 5], Body("quay"));
        Assert.Contains("_LO>95000<", System.Text.Encoding.ASCII.GetString(Body("iXML")), StringComparison.Ordinal);
        Assert.Contains("_HI>1<", System.Text.Encoding.ASCII.GetString(Body("iXML")), StringComparison.Ordinal);
        // The size that its head states is the size that it has.
        Assert.Equal(bytes.Length - 8, BitConverter.ToInt32(bytes, 4));
        // The original is held, and comes back.
        Assert.Equal(FileUse.SetAside, _purge.UseOf("Set aside/Audio/Cello 01.wav"));
    }

    /// <summary>Markers of AIFF as SoX keeps the sound: positions moved along, those outside gone, a loop without its marker off.</summary>
    [Fact]
    public void MarkersOfAiffMoveAlong()
    {
        var path = Session.Inside("Audio", "bell.aif");
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var plain = Path.Combine(Session.Card, "plain.aif");
        Tool.Run("sox", "-R", "-r", "48000", "-n", "-b", "16", "-c", "1", plain, "synth", "10", "sine", "330");
        byte[] Big(int value) => [(byte)(value >> 24), (byte)(value >> 16), (byte)(value >> 8), (byte)value];
        byte[] mark = [0, 2, 0, 1, .. Big(5 * Rate), 3, (byte)'h', (byte)'i', (byte)'t', 0, 2, .. Big(9 * Rate), 1, (byte)'x'];
        byte[] chunk = [.. "MARK"u8, .. Big(mark.Length), .. mark, .. "INST"u8, .. Big(20), 60, 0, 0, 127, 1, 127, 0, 0, 0, 1, 0, 1, 0, 2, 0, 0, 0, 0, 0, 0];
        var bytes = File.ReadAllBytes(plain);
        byte[] marked = [.. bytes, .. chunk];
        Big(marked.Length - 8).CopyTo(marked, 4);
        File.WriteAllBytes(path, marked);
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("bell", MediaUrl.From(path, Session.Folder), Rate, 10 * Rate, 4 * Rate, 2 * Rate));
        Session.Save();
        _purge.Apply(TrimPlanner.Plan(Request(_purge, new TrimChoice(0), false)));
        var cut = Session.Inside("Audio", "bell trimmed.aif");
        Assert.Equal("96000", Tool.Run("soxi", "-s", cut).Trim());
        var after = File.ReadAllBytes(cut);
        var at = after.AsSpan().IndexOf("MARK"u8);
        Assert.Equal([0, 1, 0, 1, .. Big(Rate), 3, (byte)'h', (byte)'i', (byte)'t'], after[(at + 8)..(at + 20)]);
        var instrument = after.AsSpan().IndexOf("INST"u8);
        Assert.Equal([0, 0], after[(instrument + 16)..(instrument + 18)]);
        Assert.Equal(Tool.Run("sh", "-c", $"sox '{plain}' -t raw - trim 192000s 96000s | sha1sum"), Tool.Run("sh", "-c", $"sox '{cut}' -t raw - | sha1sum"));
    }

    /// <summary>FLAC stays FLAC, to the sample, with its comments and its cue sheet: tested by flac and metaflac.</summary>
    [Fact]
    public void FlacStaysFlac()
    {
        var path = Session.Inside("Audio", "tide.flac");
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var wav = Path.Combine(Session.Card, "tide.wav");
        Tool.Run("sox", "-R", "-r", "48000", "-n", "-b", "24", "-c", "2", wav, "synth", "12", "pinknoise");
        var sheet = Path.Combine(Session.Card, "tide.cue");
        File.WriteAllText(sheet, "FILE \"tide.wav\" WAVE\n  TRACK 01 AUDIO\n    INDEX 01 00:00:00\n  TRACK 02 AUDIO\n    INDEX 01 00:05:00\n  TRACK 03 AUDIO\n    INDEX 01 00:09:00\n");
        Tool.Run("flac", "-s", "-o", path, "-T", "TITLE=The tide at Orrin Quay", $"--cuesheet={sheet}", wav);
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("tide", MediaUrl.From(path, Session.Folder), Rate, 12 * Rate, 4 * Rate, 3 * Rate));
        Session.Save();
        _purge.Apply(TrimPlanner.Plan(Request(_purge, new TrimChoice(.5), false)));
        var cut = Session.Inside("Audio", "tide trimmed.flac");
        Tool.Run("flac", "-s", "-t", cut);
        Assert.Equal("192000", Tool.Run("metaflac", "--show-total-samples", cut).Trim());
        Assert.Contains("TITLE=The tide at Orrin Quay", Tool.Run("metaflac", "--export-tags-to=-", cut), StringComparison.Ordinal);
        // The one track that begins within, a second and a half in; the lead-out is the new end.
        var cues = Tool.Run("metaflac", "--list", "--block-type=CUESHEET", cut);
        Assert.Matches(@"number of tracks: 2", cues);
        Assert.Contains("offset: 72000", cues, StringComparison.Ordinal);
        Assert.Contains("offset: 192000", cues, StringComparison.Ordinal);
        // It pictures no disc any more, so the lead-out has the number of any other sheet (RFC 9639, section 8.7).
        Assert.Contains("is CD: false", cues, StringComparison.Ordinal);
        Assert.Contains("number: 255", cues, StringComparison.Ordinal);
        Assert.DoesNotContain("number: 170", cues, StringComparison.Ordinal);
        Assert.Equal(
            Tool.Run("sh", "-c", $"sox '{wav}' -t raw -b 24 -e signed - trim 168000s 192000s | sha1sum"), Tool.Run("sh", "-c", $"flac -s -d -c --force-raw-format --endian=little --sign=signed '{cut}' | sha1sum"));
    }

    [Fact]
    public void LossyFilesAndThoseOfOtherSessionsAreLeftWholeWithANote()
    {
        var ogg = Session.Inside("Audio", "gull.ogg");
        Directory.CreateDirectory(Path.GetDirectoryName(ogg)!);
        Tool.Run("sox", "-R", "-r", "48000", "-n", "-c", "1", ogg, "synth", "10", "sine", "900");
        var shared = Broadcast("Audio/hum.wav");
        foreach (var path in new[] { ogg, shared, Broadcast("Audio/Cello 01.wav") })
        {
            ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(path, Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        }
        Session.Save();
        _purge.Other(shared);
        var plan = TrimPlanner.Plan(Request(_purge, new TrimChoice(), false));
        Assert.Empty(plan.Refusals);
        Assert.Equal([(FaultCode.LeftWholeLossy, "gull.ogg"), (FaultCode.LeftWholeShared, "hum.wav")], plan.Remarks.Select(r => (r.Code, Assert.Single(r.Names))));
        // In a copy elsewhere nobody misses the original.
        Assert.DoesNotContain(FaultCode.LeftWholeShared, TrimPlanner.Plan(Request(_purge, new TrimChoice(), true)).Remarks.Select(r => r.Code));
    }

    /// <summary>What an instrument plays is played from anywhere in it: beside a clip of the same file it is left whole.</summary>
    [Fact]
    public void WhatAnInstrumentPlaysIsLeftWhole()
    {
        foreach (var path in new[] { Broadcast("Audio/bell.wav"), Broadcast("Audio/Cello 01.wav") })
        {
            ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(path, Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        }
        Session.Save();
        Assert.Empty(TrimPlanner.Plan(Request(_purge, new TrimChoice(), false)).Remarks);
        File.WriteAllText(Session.Inside("Audio", "bells.sfz"), "<region> sample=bell.wav\n");
        var plan = TrimPlanner.Plan(Request(_purge, new TrimChoice(), false));
        Assert.Equal((FaultCode.LeftWholeUnknown, "bell.wav"), Assert.Single(plan.Remarks) is var told ? (told.Code, Assert.Single(told.Names)) : default);
        Assert.DoesNotContain(plan.Steps, s => s.Destination.Contains("bell", StringComparison.Ordinal) || s.SourcePath?.Contains("bell", StringComparison.Ordinal) == true);
    }

    /// <summary>Pointers that lead out of the folder lead there from a copy elsewhere, too; the session itself is left as it is.</summary>
    [Fact]
    public void PointersThatLeadOutStillLeadThere()
    {
        var tide = SessionFixture.Sound(Path.Combine(Session.Card, "tide.wav"), 4800);
        var cello = Broadcast("Audio/Cello 01.wav");
        Session.Place(tide, url: "../../card/tide.wav");
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(cello, Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        Session.Save();
        File.WriteAllText(Session.Inside("words.txt"), "low water");
        Directory.CreateDirectory(Session.Inside("Charts", "brass"));
        Directory.CreateDirectory(Session.Inside("Set aside"));
        var before = Tree.Of(Session.Folder);
        _purge.Apply(TrimPlanner.Plan(Request(_purge, new TrimChoice(), true)));
        Assert.Equal(before, Tree.Of(Session.Folder));
        var copy = new InventoryReader(new HeaderCache()).Read(Path.Combine(Session.Outbox, "Net Mender trimmed"), null, Session.Shelves, TestContext.Current.CancellationToken);
        Assert.Equal([("Cello 01.wav", Standing.Inside), ("tide.wav", Standing.Outside)], copy.Files.Select(f => (f.Name, f.Standing)));
        Assert.Equal(tide, copy.Files[1].Path);
        Assert.Equal("low water", File.ReadAllText(Path.Combine(copy.Folder, "words.txt")));
        // A folder that holds nothing yet comes along; the holding place is the session's own.
        Assert.True(Directory.Exists(Path.Combine(copy.Folder, "Charts", "brass")));
        Assert.False(Directory.Exists(Path.Combine(copy.Folder, "Set aside")));
    }

    [Fact]
    public void ACopyInsideTheSessionIsRefused()
    {
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(Broadcast("Audio/Cello 01.wav"), Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        Session.Save();
        Directory.CreateDirectory(Session.Inside("Notes"));
        Assert.Equal([FaultCode.CopyInsideSession], TrimPlanner.Plan(Request(_purge, new TrimChoice(), true) with { CopyTo = Session.Inside("Notes") }).Refusals.Select(f => f.Code));
    }

    /// <summary>In place, the undo brings back the tree and the documents byte for byte.</summary>
    [Fact]
    public void TrimmingInPlaceIsUndone()
    {
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(Broadcast("Audio/Cello 01.wav"), Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        Session.Save();
        var before = Tree.Of(Session.Folder);
        var plan = TrimPlanner.Plan(Request(_purge, new TrimChoice(), false));
        _purge.Apply(plan);
        _purge.Apply(UndoPlanner.Plan(plan, _purge.Journal.Records(plan)));
        Assert.Equal(before, Tree.Of(Session.Folder));
    }

    /// <summary>A full disk in the middle: everything is as it was, and it is said.</summary>
    [Fact]
    public void AFullDiskLosesNothing()
    {
        ClipBuilder.Place(Session.Document.Root, "Cello", new ClipToPlace("clip", MediaUrl.From(Broadcast("Audio/Cello 01.wav"), Session.Folder), Rate, 10 * Rate, 4 * Rate, Rate));
        Session.Save();
        var before = Tree.Of(Session.Folder);
        var writes = 0;
        var files = new Files.FaultyFiles { Before = (call, path) => _ = call == "write" && path.EndsWith(".part", StringComparison.Ordinal) && ++writes == 3 ? throw new FaultException(FaultCode.NoSpace, path) : 0 };
        var result = _purge.Journal.TryApply(TrimPlanner.Plan(Request(_purge, new TrimChoice(), false)), files: files);
        Assert.Equal((PlanOutcome.Failed, FaultCode.NoSpace, true), (result.Outcome, result.Cause!.Code, result.IsAsBefore));
        Assert.Equal(before, Tree.Of(Session.Folder));
    }
}
