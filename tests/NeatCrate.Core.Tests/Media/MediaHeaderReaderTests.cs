using System.Globalization;
using System.Text.RegularExpressions;
using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>
/// Headers of all formats against the world outside: FFmpeg 5.1, SoX 14.4 and flac 1.4 write the files, libsndfile's
/// sndfile-info says what is in them.
/// </summary>
public sealed class MediaHeaderReaderTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    /// <summary>File name, and what FFmpeg is told beside rate and channels.</summary>
    public static TheoryData<string, int, int, string> FfmpegVariants
    {
        get
        {
            var data = new TheoryData<string, int, int, string>();
            foreach (var (rate, channels) in new[] { (8000, 1), (44100, 2), (48000, 6), (96000, 1), (192000, 2) })
            {
                data.Add("pcm16.aiff", rate, channels, "-c:a pcm_s16be");
                data.Add("pcm24.aif", rate, channels, "-c:a pcm_s24be");
                data.Add("16.flac", rate, channels, "-c:a flac -sample_fmt s16");
                data.Add("24.flac", rate, channels, "-c:a flac -sample_fmt s32 -bits_per_raw_sample 24");
                data.Add("16.wav", rate, channels, "-c:a pcm_s16le");
            }
            data.Add("pcm32.aiff", 48000, 2, "-c:a pcm_s32be");
            data.Add("float.aiff", 48000, 2, "-c:a pcm_f32be");
            data.Add("double.aiff", 44100, 1, "-c:a pcm_f64be");
            data.Add("little.aiff", 44100, 2, "-c:a pcm_s16le");
            data.Add("mulaw.aiff", 8000, 1, "-c:a pcm_mulaw");
            data.Add("alaw.wav", 8000, 1, "-c:a pcm_alaw");
            data.Add("float.wav", 96000, 2, "-c:a pcm_f32le");
            data.Add("double.wav", 44100, 1, "-c:a pcm_f64le");
            data.Add("eight.wav", 22050, 2, "-c:a pcm_u8");
            foreach (var (rate, channels) in new[] { (22050, 1), (44100, 2), (48000, 2), (48000, 6) })
            {
                data.Add("vorbis.ogg", rate, channels, "-c:a libvorbis -q:a 3");
            }
            data.Add("voice.opus", 48000, 1, "-c:a libopus -b:a 48k");
            data.Add("music.opus", 48000, 2, "-c:a libopus -b:a 160k");
            foreach (var (rate, channels) in new[] { (44100, 2), (48000, 1), (32000, 2), (22050, 1), (16000, 2), (8000, 1) })
            {
                data.Add("cbr.mp3", rate, channels, "-c:a libmp3lame -b:a 64k");
                data.Add("vbr.mp3", rate, channels, "-c:a libmp3lame -q:a 4");
            }
            data.Add("tagged.mp3", 44100, 2, "-c:a libmp3lame -b:a 128k -write_id3v1 1 -metadata title=Net");
            return data;
        }
    }

    [Theory]
    [MemberData(nameof(FfmpegVariants))]
    public void WhatFfmpegWroteIsReadAsLibsndfileReadsIt(string name, int rate, int channels, string options)
    {
        var path = _temp.At(name);
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", $"sine=frequency=440:sample_rate={rate}:duration=0.73", "-ac", $"{channels}", .. options.Split(' '), path]);
        AssertAsLibsndfile(path);
    }

    [Theory]
    [InlineData("sox.aiff", 8)]
    [InlineData("sox.aiff", 24)]
    [InlineData("sox.aifc", 16)]
    [InlineData("sox.flac", 24)]
    [InlineData("sox.ogg", 0)]
    public void WhatSoxWroteIsReadAsLibsndfileReadsIt(string name, int bits)
    {
        var path = _temp.At(name);
        string[] depth = bits == 0 ? [] : ["-b", $"{bits}"];
        Tool.Run("sox", ["-n", "-r", "48000", "-c", "2", .. depth, path, "synth", "0.411", "sine", "300"]);
        AssertAsLibsndfile(path);
    }

    private static void AssertAsLibsndfile(string path)
    {
        var header = MediaHeaderReader.ReadFile(path)!;
        var info = Tool.Run("sndfile-info", path);
        long Figure(string name) => long.Parse(Regex.Match(info, $@"^{name}\s*: (\d+)", RegexOptions.Multiline).Groups[1].Value, CultureInfo.InvariantCulture);
        Assert.Equal((Figure("Sample Rate"), Figure("Channels"), Figure("Frames")), (header.SampleRate, header.Channels, header.LengthSamples!.Value));
        Assert.Empty(header.Remarks);
        Assert.False(header.Unfinished);
        Assert.InRange(header.DataOffset + header.DataBytes, 1, new FileInfo(path).Length);
        // ffprobe agrees on the depth where there is one.
        var bits = Tool.Run("ffprobe", "-v", "error", "-show_entries", "stream=bits_per_raw_sample,bits_per_sample", "-of", "csv=p=0", path).Trim().Split(',');
        if (header.BitsPerSample > 0)
        {
            Assert.Contains($"{header.BitsPerSample}", bits);
        }
    }

    [Theory]
    [InlineData("a.flac", "-c:a flac")]
    [InlineData("a.ogg", "-c:a libvorbis")]
    [InlineData("a.opus", "-c:a libopus")]
    [InlineData("a.aiff", "-c:a pcm_s16be")]
    [InlineData("a.wav", "-c:a pcm_s16le")]
    public void TextsThatAFileCarriesAreRead(string name, string options)
    {
        var path = _temp.At(name);
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=0.2", .. options.Split(' '), "-metadata", "title=Net Mender, pass 2", path]);
        Assert.Contains(new MediaTag("TITLE", "Net Mender, pass 2"), MediaHeaderReader.ReadFile(path)!.Tags);
    }

    /// <summary>LIST/INFO as FFmpeg writes it, with names as ffprobe gives them.</summary>
    [Fact]
    public void TheTextsOfAWavFileHaveTheNamesThatOtherFormatsGiveThem()
    {
        var path = _temp.At("a.wav");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=duration=0.2", "-metadata", "artist=Saltmarsh", "-metadata", "genre=Folk", "-metadata", "date=2026", "-metadata", "comment=odd", path);
        var told = Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags", "-of", "csv=p=0:nk=0", path).Trim().Split(',').Select(t => t.Replace("tag:", "", StringComparison.Ordinal).Split('='));
        Assert.Equal(
            told.Select(t => (t[0].ToUpperInvariant(), t[1])).Order(),
            MediaHeaderReader.ReadFile(path)!.Tags.Select(t => (t.Name, t.Value)).Order());
    }

    /// <summary>Real recordings that come with Debian: the voices of alsa-utils, and the sounds of sound-theme-freedesktop.</summary>
    [Fact]
    public void RealRecordingsAreReadAsLibsndfileReadsThem()
    {
        string[] all = [.. Directory.GetFiles("/usr/share/sounds/alsa", "*.wav"), .. Directory.GetFiles("/usr/share/sounds/freedesktop/stereo", "*.oga")];
        Assert.True(all.Length > 30, $"only {all.Length} recordings are there");
        Assert.All(all.Where(f => new FileInfo(f).LinkTarget is null), AssertAsLibsndfile);
    }

    /// <summary>FLAC that was piped: the length was not known when the header was written (RFC 9639, section 8.2: 0).</summary>
    [Fact]
    public void AFlacFileWhoseLengthWasNeverWrittenSaysThatItIsNotKnown()
    {
        var path = _temp.At("piped.flac");
        Tool.Run("sh", "-c", $"ffmpeg -v error -f lavfi -i sine=duration=0.2 -c:a flac -f flac - > '{path}'");
        Assert.Null(MediaHeaderReader.ReadFile(path)!.LengthSamples);
    }

    /// <summary>MPEG audio without a Xing frame: all frames are counted, as ffprobe counts them. Each holds 1152 samples (ISO/IEC 11172-3).</summary>
    [Theory]
    [InlineData("-b:a 128k -id3v2_version 0")]
    [InlineData("-b:a 64k -write_id3v1 1")]
    [InlineData("-q:a 5")]
    public void WithoutAXingFrameAllFramesAreCounted(string options)
    {
        var path = _temp.At("plain.mp3");
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "sine=frequency=440:sample_rate=44100:duration=3.1", "-c:a", "libmp3lame", "-write_xing", "0", .. options.Split(' '), path]);
        var frames = Tool.Run("ffprobe", "-v", "error", "-count_packets", "-show_entries", "stream=nb_read_packets", "-of", "csv=p=0", path).Trim();
        Assert.Equal(1152 * long.Parse(frames, CultureInfo.InvariantCulture), MediaHeaderReader.ReadFile(path)!.LengthSamples);
    }

    /// <summary>FFmpeg writes to a pipe: sizes and the fact chunk are never filled in. ITU-T G.711: a byte for each sample.</summary>
    [Theory]
    [InlineData("pcm_mulaw", 1)]
    [InlineData("pcm_alaw", 2)]
    public void CompandedSoundFromAPipeHasTheLengthOfItsData(string codec, int channels)
    {
        var path = _temp.At("piped.wav");
        Tool.Run("sh", "-c", $"ffmpeg -v error -f lavfi -i sine=sample_rate=8000:duration=0.5 -ac {channels} -c:a {codec} -f wav - > '{path}'");
        Assert.Equal((4000L, true), MediaHeaderReader.ReadFile(path) is { } header ? (header.LengthSamples!.Value, header.Unfinished) : default);
    }

    [Theory]
    [InlineData("alaw")]
    [InlineData("ulaw")]
    public void CompandedAiffSaysItsDepth(string codec)
    {
        var path = _temp.At("companded.aifc");
        Tool.Run("sox", "-n", "-r", "8000", "-c", "1", "-e", codec == "alaw" ? "a-law" : "mu-law", path, "synth", "0.5", "sine", "300");
        Assert.Equal((8, 4000L), MediaHeaderReader.ReadFile(path) is { } header ? (header.BitsPerSample, header.LengthSamples!.Value) : default);
    }

    /// <summary>A count that some writers give in blocks of another size; the data tells (QuickTime file format, "IMA 4:1": 34 bytes for 64 samples of a channel).</summary>
    [Fact]
    public void ImaSoundHasTheLengthOfItsDataWhateverTheCountSays()
    {
        var path = _temp.At("ima.aifc");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=44100:duration=0.4", "-c:a", "adpcm_ima_qt", "-f", "aiff", path);
        var bytes = File.ReadAllBytes(path);
        var common = bytes.AsSpan().IndexOf("COMM"u8);
        var frames = System.Buffers.Binary.BinaryPrimitives.ReadUInt32BigEndian(bytes.AsSpan(common + 10));
        System.Buffers.Binary.BinaryPrimitives.WriteUInt32BigEndian(bytes.AsSpan(common + 10), frames / 2);
        File.WriteAllBytes(path, bytes);
        var header = MediaHeaderReader.ReadFile(path)!;
        Assert.InRange(header.LengthSamples!.Value, 17_600, 17_800);
        Assert.NotEmpty(header.Remarks);
    }

    /// <summary>RFC 3533, section 4: streams one after the other. A length of the first part alone would let the rest be cut off; FFmpeg decodes them all.</summary>
    [Theory]
    [InlineData("ogg", "libvorbis", 44100)]
    [InlineData("opus", "libopus", 48000)]
    public void ChainedStreamsAreAsLongAsAllOfThemTogether(string extension, string codec, int rate)
    {
        var apart = 0L;
        foreach (var (name, seconds) in new[] { ("one", "0.5"), ("two", "0.7"), ("three", "3.1") })
        {
            Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", $"sine=sample_rate={rate}:duration={seconds}", "-c:a", codec, _temp.At($"{name}.{extension}"));
            apart += MediaHeaderReader.ReadFile(_temp.At($"{name}.{extension}"))!.LengthSamples!.Value;
        }
        Tool.RunIn(_temp.Path, "sh", "-c", $"cat one.{extension} two.{extension} three.{extension} > chained.{extension}");
        var header = MediaHeaderReader.ReadFile(_temp.At($"chained.{extension}"))!;
        Assert.Equal(apart, header.LengthSamples);
        Assert.InRange(header.LengthSamples!.Value - (long)(4.3 * rate), 0, 1);
        Assert.Empty(header.Remarks);
    }

    /// <summary>Of another rate, of other channels, cut in the middle, with something between: what the whole is as long as, nobody can say.</summary>
    [Theory]
    [InlineData("one.ogg other-rate.ogg")]
    [InlineData("one.ogg stereo.ogg")]
    [InlineData("one.ogg other.opus")]
    [InlineData("one.ogg text.txt one-again.ogg")]
    public void OfStreamsThatDoNotBelongTogetherNoLengthIsClaimed(string parts)
    {
        Tool.Run("sox", "-n", "-r", "48000", "-c", "1", _temp.At("one.ogg"), "synth", "0.5", "sine", "300");
        Tool.Run("sox", "-n", "-r", "48000", "-c", "1", _temp.At("one-again.ogg"), "synth", "0.4", "sine", "300");
        Tool.Run("sox", "-n", "-r", "44100", "-c", "1", _temp.At("other-rate.ogg"), "synth", "0.7", "sine", "500");
        Tool.Run("sox", "-n", "-r", "48000", "-c", "2", _temp.At("stereo.ogg"), "synth", "0.7", "sine", "500");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=0.4", "-c:a", "libopus", _temp.At("other.opus"));
        File.WriteAllText(_temp.At("text.txt"), "Low water");
        Tool.RunIn(_temp.Path, "sh", "-c", $"cat {parts} > chained.ogg");
        var header = MediaHeaderReader.ReadFile(_temp.At("chained.ogg"))!;
        Assert.Null(header.LengthSamples);
        Assert.Equal(FaultCode.StreamsChained, Assert.Single(header.Remarks).Code);
    }

    /// <summary>Core Audio Format as SoX and FFmpeg write it, plain and coded, both byte orders, with its sound to the end of the file.</summary>
    [Theory]
    [InlineData("ffmpeg", "-c:a pcm_s16le")]
    [InlineData("ffmpeg", "-c:a pcm_s24be")]
    [InlineData("ffmpeg", "-c:a pcm_f32be")]
    [InlineData("ffmpeg", "-c:a pcm_f64le")]
    [InlineData("ffmpeg", "-c:a pcm_mulaw")]
    [InlineData("sox", "-b 24 -e signed-integer")]
    [InlineData("sox", "-b 32 -e floating-point")]
    [InlineData("sox", "-b 8 -e signed-integer")]
    public void CoreAudioIsReadAsLibsndfileReadsIt(string writer, string options)
    {
        var path = _temp.At("a.caf");
        if (writer == "sox")
        {
            Tool.Run("sox", ["-n", "-r", "44100", "-c", "2", .. options.Split(' '), path, "synth", "0.411", "sine", "300"]);
        }
        else
        {
            Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "sine=frequency=440:sample_rate=48000:duration=0.73", "-ac", "2", .. options.Split(' '), path]);
        }
        AssertAsLibsndfile(path);
        // Sample for sample as FFmpeg decodes it.
        var header = MediaHeaderReader.ReadFile(path)!;
        Tool.Run("ffmpeg", "-v", "error", "-i", path, "-c:a", "pcm_f32le", _temp.At("decoded.wav"));
        using var own = SoundReader.Open(path, header);
        using var told = SoundReader.Open(_temp.At("decoded.wav"), MediaHeaderReader.ReadFile(_temp.At("decoded.wav"))!);
        Assert.Equal(told.LengthSamples, own.LengthSamples);
        var (a, b) = (new float[2 * own.LengthSamples], new float[2 * own.LengthSamples]);
        Assert.Equal((own.LengthSamples, own.LengthSamples), (own.Read(a), told.Read(b)));
        Assert.InRange(a.Zip(b).Max(p => Math.Abs(p.First - p.Second)), 0, 1e-6f);
    }

    /// <summary>Packets of many sizes: their table tells the samples, and ffprobe gives the same.</summary>
    [Fact]
    public void CodedCoreAudioIsAsLongAsItsTableOfPacketsSays()
    {
        var path = _temp.At("a.caf");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=44100:duration=0.73", "-ac", "2", "-c:a", "alac", path);
        var told = Tool.Run("ffprobe", "-v", "error", "-show_entries", "stream=sample_rate,channels,duration_ts", "-of", "csv=p=0", path).Trim();
        var header = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal((told, SampleEncoding.Encoded), ($"{header.SampleRate},{header.Channels},{header.LengthSamples}", header.Encoding));
    }

    [Fact]
    public void CoreAudioThatWasCutOffSaysSo()
    {
        var path = _temp.At("a.caf");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=0.5", "-c:a", "pcm_s16le", "-metadata", "title=Net Mender, pass 2", path);
        var whole = MediaHeaderReader.ReadFile(path)!;
        Assert.Contains(new MediaTag("TITLE", "Net Mender, pass 2"), whole.Tags);
        var bytes = File.ReadAllBytes(path);
        File.WriteAllBytes(path, bytes[..(int)(whole.DataOffset + 20_000)]);
        var cut = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal((10_000L, true), (cut.LengthSamples!.Value, cut.Unfinished));
        // "Audio Data Chunk": -1 where the size was not known; then the sound goes to the end.
        System.Buffers.Binary.BinaryPrimitives.WriteInt64BigEndian(bytes.AsSpan((int)whole.DataOffset - 12), -1);
        File.WriteAllBytes(path, bytes);
        var open = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal((24_000L, false), (open.LengthSamples!.Value, open.Unfinished));
    }

    /// <summary>AAC as frames: all are counted, as ffprobe counts them. Each holds 1024 samples (ISO/IEC 13818-7).</summary>
    [Theory]
    [InlineData(44100, 2, false)]
    [InlineData(48000, 1, false)]
    [InlineData(22050, 2, true)]
    [InlineData(48000, 6, false)]
    public void FramesOfAacAreCounted(int rate, int channels, bool tagged)
    {
        var path = _temp.At("a.aac");
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", $"sine=frequency=440:sample_rate={rate}:duration=3.1", "-ac", $"{channels}", "-c:a", "aac", .. tagged ? (string[])["-write_id3v2", "1", "-metadata", "title=Net"] : [], path]);
        var frames = Tool.Run("ffprobe", "-v", "error", "-count_packets", "-show_entries", "stream=nb_read_packets", "-of", "csv=p=0", path).Trim();
        var header = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal(("AAC", rate, channels, 1024 * long.Parse(frames, CultureInfo.InvariantCulture)), (header.Container, header.SampleRate, header.Channels, header.LengthSamples));
        Assert.Empty(header.Remarks);
        // A last frame that is cut off does not count, and what stands between frames is told.
        var bytes = File.ReadAllBytes(path);
        File.WriteAllBytes(path, bytes[..^5]);
        Assert.Equal(header.LengthSamples - 1024, MediaHeaderReader.ReadFile(path)!.LengthSamples);
        File.WriteAllBytes(path, [.. bytes, .. new byte[300]]);
        Assert.Equal(FaultCode.BytesBetweenFrames, Assert.Single(MediaHeaderReader.ReadFile(path)!.Remarks).Code);
    }

    [Fact]
    public void AnEndThatNoBytesCanHoldIsNotBelieved()
    {
        var path = _temp.At("end.ogg");
        Tool.Run("sox", "-n", "-r", "48000", "-c", "1", path, "synth", "0.5", "sine", "300");
        var bytes = File.ReadAllBytes(path);
        System.Buffers.Binary.BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(bytes.AsSpan().LastIndexOf("OggS"u8) + 6), long.MaxValue);
        File.WriteAllBytes(path, bytes);
        Assert.Null(MediaHeaderReader.ReadFile(path)!.LengthSamples);
    }

    /// <summary>Free-format MPEG audio tells no frame length (ISO/IEC 11172-3, 2.4.2.3); a sync word near its end is chance and no stream.</summary>
    [Fact]
    public void ALoneSyncWordNearTheEndIsNoStream()
    {
        var bytes = new byte[20_000];
        new Random(3).NextBytes(bytes);
        bytes.AsSpan().Replace((byte)0xFF, (byte)0);
        // Free format from the start, and 400 bytes before the end something that looks like a frame of 32 kHz.
        (bytes[0], bytes[1], bytes[2], bytes[3]) = (0xFF, 0xFB, 0x04, 0xC0);
        (bytes[^400], bytes[^399], bytes[^398], bytes[^397]) = (0xFF, 0xFB, 0x98, 0x00);
        File.WriteAllBytes(_temp.At("free.mp3"), bytes);
        Assert.Throws<UnreadableMediaException>(() => MediaHeaderReader.ReadFile(_temp.At("free.mp3")));
    }

    /// <summary>truncate(1) makes a file of a terabyte that takes no room: reading it through would take hours.</summary>
    [Theory]
    [InlineData("huge.mp3")]
    [InlineData("huge.wav")]
    public void AFileOfATerabyteOfNothingIsToldAtOnce(string name)
    {
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=2", "-write_xing", "0", _temp.At(name));
        Tool.Run("truncate", "-s", "1T", _temp.At(name));
        var header = MediaHeaderReader.ReadFile(_temp.At(name))!;
        Assert.Equal(48000, header.SampleRate);
        if (name.EndsWith(".wav", StringComparison.Ordinal))
        {
            // As a recorder that was cut off leaves it: all of it counts as sound, and its outline takes no hours.
            using var reader = SoundReader.Open(_temp.At(name), header with { LengthSamples = 500_000_000_000, DataBytes = 1_000_000_000_000 });
            Assert.Equal(Peaks.Stretches, Peaks.Of(reader, cancel: TestContext.Current.CancellationToken).Count);
        }
    }

    [Fact]
    public void OggFlacIsRead()
    {
        var path = _temp.At("a.oga");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=0.5", "-c:a", "flac", path);
        var header = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal(("Ogg FLAC", 48000, 1, 24000L), (header.Container, header.SampleRate, header.Channels, header.LengthSamples));
    }

    [Theory]
    [InlineData("x.aiff", "AIFF")]
    [InlineData("x.flac", "FLAC")]
    [InlineData("x.ogg", "Ogg")]
    [InlineData("x.mp3", "MPEG audio")]
    [InlineData("x.caf", "CAF")]
    [InlineData("x.aac", "AAC")]
    [InlineData("x.wav", "WAV")]
    public void WhatIsNotWhatItsNameSaysIsToldSo(string name, string expected)
    {
        File.WriteAllText(_temp.At(name), "Low water, low water, the lamps along the quay");
        Assert.Equal(new Fault(FaultCode.MediaStartsOtherwise) { Name = expected }, Assert.Throws<UnreadableMediaException>(() => MediaHeaderReader.ReadFile(_temp.At(name))).Fault);
    }

    [Fact]
    public void AFileOfAnotherKindUnderAWrongNameIsReadAsWhatItIs()
    {
        var path = _temp.At("really.flac");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=duration=0.1", "-c:a", "flac", path);
        File.Move(path, _temp.At("so-called.wav"));
        Assert.Equal("FLAC", MediaHeaderReader.ReadFile(_temp.At("so-called.wav"))!.Container);
        File.WriteAllText(_temp.At("song.m4a"), "known by name and size only");
        Assert.Null(MediaHeaderReader.ReadFile(_temp.At("song.m4a")));
    }

    /// <summary>Mutated headers of every format: the reader reads or says why not, within bounds; nothing else escapes.</summary>
    [Fact]
    public void NoMutationMakesAReaderFailOtherwiseThanBySayingSo()
    {
        string[] names = ["a.wav", "a.aiff", "a.flac", "a.ogg", "a.opus", "a.mp3", "b.mp3", "a.caf", "b.caf", "a.aac"];
        string[] options = ["-c:a pcm_s24le", "-c:a pcm_s24be", "-c:a flac", "-c:a libvorbis", "-c:a libopus", "-c:a libmp3lame -b:a 64k", "-c:a libmp3lame -b:a 64k -write_xing 0 -id3v2_version 0", "-c:a pcm_s24le", "-c:a alac", "-c:a aac"];
        var seeds = names.Zip(options, (name, option) =>
        {
            Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=0.3", .. option.Split(' '), "-metadata", "title=t", _temp.At(name)]);
            return (Bytes: File.ReadAllBytes(_temp.At(name)), Extension: Path.GetExtension(name));
        }).ToList();
        var random = new Random(20261125);
        var (read, refused) = (0, 0);
        var cases = int.Parse(Environment.GetEnvironmentVariable("NEAT_CRATE_FUZZ_CASES") ?? "6000", CultureInfo.InvariantCulture);
        for (var n = 0; n < cases; n++)
        {
            var (seed, extension) = seeds[n % seeds.Count];
            var bytes = Mutate((byte[])seed.Clone(), random);
            using var source = ByteSource.FromMemory(bytes);
            var before = GC.GetAllocatedBytesForCurrentThread();
            try
            {
                var header = MediaHeaderReader.Read(source, extension);
                Assert.True(
                    header is null || (header.DataOffset >= 0 && header.DataBytes >= 0 && header.DataOffset + header.DataBytes <= bytes.Length && header.LengthSamples is null or >= 0),
                    $"Case {n}, {extension}, {bytes.Length} bytes: {header}");
                read++;
            }
            catch (UnreadableMediaException)
            {
                refused++;
            }
            Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 8_000_000);
        }
        Assert.True(read > cases / 10 && refused > cases / 20, $"{read} read, {refused} refused: the mutations no longer reach both ends.");
    }

    private static byte[] Mutate(byte[] bytes, Random random)
    {
        for (var m = random.Next(1, 6); m > 0 && bytes.Length > 0; m--)
        {
            // Mostly the places that hold sizes and identifiers.
            var at = random.Next(random.Next(3) > 0 ? Math.Min(96, bytes.Length) : bytes.Length);
            switch (random.Next(4))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes[at] = random.Next(2) == 0 ? (byte)0 : (byte)0xFF;
                    break;
                case 2:
                    bytes.AsSpan(at, Math.Min(4, bytes.Length - at)).Fill((byte)random.Next(256));
                    break;
                default:
                    bytes = random.Next(8) == 0 ? bytes[..at] : bytes;
                    break;
            }
        }
        return bytes;
    }
}
