using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

public sealed class WavHeaderReaderTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    /// <summary>Source of the files and of the expected values: SoX 14.4 writes them, and says itself what it wrote (sox --i).</summary>
    [Theory]
    [InlineData(8000, 1, 8, "unsigned-integer")]
    [InlineData(44100, 2, 16, "signed-integer")]
    [InlineData(48000, 1, 24, "signed-integer")]
    [InlineData(96000, 6, 24, "signed-integer")]
    [InlineData(192000, 2, 32, "signed-integer")]
    [InlineData(48000, 2, 32, "floating-point")]
    [InlineData(44100, 1, 64, "floating-point")]
    public void ReadsWhatSoxWrote(int rate, int channels, int bits, string encoding)
    {
        var path = _temp.At("sox.wav");
        Tool.Run("sox", "-n", "-r", $"{rate}", "-c", $"{channels}", "-b", $"{bits}", "-e", encoding, path, "synth", "0.137", "sine", "440");
        var header = WavHeaderReader.ReadFile(path);
        string Sox(string flag) => Tool.Run("soxi", flag, path).Trim();
        Assert.Equal(int.Parse(Sox("-r"), CultureInfo.InvariantCulture), header.SampleRate);
        Assert.Equal(int.Parse(Sox("-c"), CultureInfo.InvariantCulture), header.Channels);
        Assert.Equal(int.Parse(Sox("-b"), CultureInfo.InvariantCulture), header.BitsPerSample);
        Assert.Equal(long.Parse(Sox("-s"), CultureInfo.InvariantCulture), header.LengthSamples);
        Assert.Equal(encoding, header.Encoding switch
        {
            SampleEncoding.UnsignedInteger => "unsigned-integer",
            SampleEncoding.SignedInteger => "signed-integer",
            SampleEncoding.FloatingPoint => "floating-point",
            _ => "encoded",
        });
        Assert.False(header.Unfinished);
    }

    /// <summary>Source: FFmpeg 5.1 writes the file (WAVE_FORMAT_EXTENSIBLE, RF64, bext, LIST), ffprobe says what is in it.</summary>
    [Theory]
    [InlineData("pcm_s24le", "5.1", "auto")]
    [InlineData("pcm_s16le", "stereo", "always")]
    [InlineData("pcm_f32le", "7.1", "never")]
    public void ReadsWhatFfmpegWrote(string codec, string layout, string rf64)
    {
        var path = _temp.At("ffmpeg.wav");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", $"anullsrc=channel_layout={layout}:sample_rate=48000", "-t", "0.25", "-c:a", codec,
            "-write_bext", "1", "-metadata", "description=Bell buoy at slack water", "-metadata", "time_reference=4147200000", "-rf64", rf64, path);
        var header = WavHeaderReader.ReadFile(path);
        var probe = Tool.Run("ffprobe", "-v", "error", "-show_entries", "stream=sample_rate,channels,duration_ts", "-of", "default=nw=1", path);
        Assert.Contains($"sample_rate={header.SampleRate}", probe, StringComparison.Ordinal);
        Assert.Contains($"channels={header.Channels}", probe, StringComparison.Ordinal);
        Assert.Contains($"duration_ts={header.LengthSamples}", probe, StringComparison.Ordinal);
        Assert.Equal(rf64 == "always" ? "RF64" : "WAV", header.Container);
        Assert.Equal("Bell buoy at slack water", header.Broadcast!.Description);
        // 24 hours at 48 kHz are 4,147,200,000 samples, just past midnight.
        Assert.Equal(4_147_200_000UL, header.Broadcast.TimeReference);
    }

    /// <summary>Source: libsndfile's sndfile-info reads what our writer wrote, and finds the same.</summary>
    [Theory]
    [InlineData(48000, 1, 24, 4801)]
    [InlineData(44100, 2, 16, 997)]
    [InlineData(192000, 3, 24, 333)]
    [InlineData(96000, 2, 32, 1001)]
    public void WhatWeWriteIsReadByOthersAsWeMeantIt(int rate, int channels, int bits, int length)
    {
        var path = _temp.At("ours.wav");
        var bext = new BroadcastExtension("Rope creak", "Neat Crate", "NC-1", "2026-10-14", "23:59:59", 16_588_799_999, CodingHistory: "A=PCM,F=48000");
        Write(path, new PcmFormat(rate, channels, bits), length, bext);
        var ours = WavHeaderReader.ReadFile(path);
        var info = Tool.Run("sndfile-info", path);
        Assert.Matches($@"Sample Rate\s*: {rate}\b", info);
        Assert.Matches($@"Frames\s*: {length}\b", info);
        Assert.Matches($@"Channels\s*: {channels}\b", info);
        Assert.Contains("TAG:time_reference=16588799999", Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags", path), StringComparison.Ordinal);
        Assert.Equal((rate, channels, bits, (long?)length), (ours.SampleRate, ours.Channels, ours.BitsPerSample, ours.LengthSamples));
        Assert.Equal(bext, ours.Broadcast);
        // mediainfo reads the same description and the same time reference.
        var mediaInfo = Tool.Run("mediainfo", "--Output=General;%Description%", path).Trim();
        Assert.Equal("Rope creak", mediaInfo);
    }

    /// <summary>EBU Tech 3306: past the limit the file is RF64 with a ds64 chunk. The limit is injected; ffprobe agrees on the length.</summary>
    [Fact]
    public void AFilePastTheLimitBecomesRF64InPlace()
    {
        var path = _temp.At("long.wav");
        Write(path, new PcmFormat(48000, 1, 24), 20_000, null, limit: 50_000);
        var header = WavHeaderReader.ReadFile(path);
        Assert.Equal("RF64", header.Container);
        Assert.Equal(20_000, header.LengthSamples);
        Assert.Empty(header.Remarks);
        Assert.Contains("duration_ts=20000", Tool.Run("ffprobe", "-v", "error", "-show_entries", "stream=duration_ts", path), StringComparison.Ordinal);
    }

    [Fact]
    public void UnknownChunksOfOddLengthAreSteppedOverWithTheirPadByte()
    {
        var path = _temp.At("odd.wav");
        Write(path, new PcmFormat(48000, 1, 16), 10, null, chunks: [("quay", new byte[5])]);
        var header = WavHeaderReader.ReadFile(path);
        Assert.Equal(["JUNK", "fmt ", "quay", "data"], header.Chunks.Select(c => c.Id));
        Assert.Equal(5, header.Chunks[2].Bytes);
        Assert.Equal(10, header.LengthSamples);
    }

    [Fact]
    public void AnOddChunkWithoutItsPadByteIsSeenAndSaid()
    {
        var bytes = Riff(Chunk("fmt ", Format(1, 1, 8000, 1, 8)), Chunk("quay", new byte[3], pad: false), Chunk("data", new byte[4]));
        var header = Read(bytes);
        Assert.Equal(4, header.LengthSamples);
        Assert.Contains(header.Remarks, r => r.Code == FaultCode.PadByteMissing);
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(0xFFFFFFFFu)]
    [InlineData(1_000_000u)]
    public void ARecordingThatWasCutOffIsRecognisedWithItsTrueLength(uint writtenSize)
    {
        var data = Chunk("data", Enumerable.Repeat((byte)0x91, 600).ToArray());
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(4), writtenSize);
        var header = Read(Riff(Chunk("fmt ", Format(1, 1, 48000, 3, 24)), data));
        Assert.True(header.Unfinished);
        Assert.Equal(200, header.LengthSamples);
    }

    [Fact]
    public void AnEmptyRecordingIsNotTakenForACutOffOne()
    {
        var header = Read(Riff(Chunk("fmt ", Format(1, 1, 48000, 3, 24)), Chunk("data", []), Chunk("LIST", new byte[12])));
        Assert.False(header.Unfinished);
        Assert.Equal(0, header.LengthSamples);
    }

    [Fact]
    public void TextThatIsNotUTF8IsReadAsLatin1()
    {
        var body = BroadcastExtensionChunk.Write(new BroadcastExtension("x", "y", "", "", "", 0));
        Encoding.Latin1.GetBytes("Drehleier für Wren").CopyTo(body, 0);
        Assert.Equal("Drehleier für Wren", BroadcastExtensionChunk.Read(body)!.Description);
    }

    [Theory]
    [InlineData("RIFF", FaultCode.MediaTooShort, null)]
    [InlineData("RIFX0000WAVE", FaultCode.MediaStartsOtherwise, null)]
    [InlineData("RIFF0000WAVE", FaultCode.MediaLacksPart, "format chunk")]
    public void WhatIsNoWAVFileSaysSo(string content, FaultCode expected, string? part)
    {
        var fault = Assert.Throws<UnreadableMediaException>(() => Read(Encoding.ASCII.GetBytes(content))).Fault;
        Assert.Equal((expected, "WAV", part), (fault.Code, fault.Name, fault.Other));
    }

    [Fact]
    public void AFormatChunkThatContradictsItselfIsRefused()
    {
        var bytes = Riff(Chunk("fmt ", Format(1, 2, 48000, 3, 24)), Chunk("data", new byte[6]));
        Assert.Equal(new Fault(FaultCode.MediaContradictsItself) { Count = 2, Expected = 24, Bytes = 3 }, Assert.Throws<UnreadableMediaException>(() => Read(bytes)).Fault);
    }

    /// <summary>Mutated headers: the reader either reads or says why not, within bounds; nothing else escapes.</summary>
    [Fact]
    public void NoMutationOfAHeaderMakesTheReaderFailOtherwiseThanBySayingSo()
    {
        var path = _temp.At("seed.wav");
        Write(path, new PcmFormat(48000, 2, 24), 64, new BroadcastExtension("d", "o", "r", "2026-10-14", "10:00:00", 1), chunks: [("quay", new byte[5])]);
        var seeds = new[] { File.ReadAllBytes(path), Riff(Chunk("fmt ", Format(0xFFFE, 2, 48000, 6, 24, extensible: true)), Chunk("data", new byte[60])) };
        var random = new Random(20261014);
        var (read, refused) = (0, 0);
        for (var n = 0; n < 5000; n++)
        {
            var bytes = (byte[])seeds[n % seeds.Length].Clone();
            for (var m = random.Next(1, 6); m > 0; m--)
            {
                // Mostly the places that hold sizes and identifiers.
                var at = random.Next(random.Next(2) == 0 ? Math.Min(64, bytes.Length) : bytes.Length);
                switch (random.Next(3))
                {
                    case 0:
                        bytes[at] = (byte)random.Next(256);
                        break;
                    case 1 when at + 4 <= bytes.Length:
                        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(at), random.Next(4) switch { 0 => 0u, 1 => uint.MaxValue, 2 => 0x7FFFFFFF, _ => (uint)random.Next(4096) });
                        break;
                    default:
                        bytes = bytes[..random.Next(bytes.Length + 1)];
                        at = 0;
                        if (bytes.Length == 0)
                        {
                            m = 0;
                        }
                        break;
                }
            }
            try
            {
                var before = GC.GetAllocatedBytesForCurrentThread();
                var header = Read(bytes);
                Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 4_000_000);
                Assert.InRange(header.DataBytes, 0, bytes.Length);
                Assert.True(header.DataOffset + header.DataBytes <= bytes.Length);
                Assert.True(header.LengthSamples is null or >= 0);
                read++;
            }
            catch (UnreadableMediaException)
            {
                refused++;
            }
        }
        Assert.True(read > 500 && refused > 500, $"{read} read, {refused} refused: the mutations no longer reach both ends.");
    }

    private static MediaHeader Read(byte[] bytes)
    {
        using var source = ByteSource.FromMemory(bytes);
        return WavHeaderReader.Read(source);
    }

    private static void Write(
        string path, PcmFormat format, int length, BroadcastExtension? bext, (string, ReadOnlyMemory<byte>)[]? chunks = null, long limit = uint.MaxValue)
    {
        using var stream = File.Create(path);
        using var writer = new WavWriter(stream, format, bext, chunks, limit);
        if (format.BitsPerSample == 32)
        {
            writer.Write(Enumerable.Range(0, length * format.Channels).Select(n => n % 200 / 200f).ToArray());
            return;
        }
        writer.Write(Enumerable.Range(0, length * format.Channels).Select(n => n * 7 % 30000).ToArray());
    }

    private static byte[] Riff(params byte[][] chunks)
    {
        var body = chunks.SelectMany(c => c).ToArray();
        var size = new byte[4];
        BinaryPrimitives.WriteInt32LittleEndian(size, body.Length + 4);
        return [.. "RIFF"u8, .. size, .. "WAVE"u8, .. body];
    }

    private static byte[] Chunk(string id, byte[] body, bool pad = true)
    {
        var size = new byte[4];
        BinaryPrimitives.WriteInt32LittleEndian(size, body.Length);
        byte[] tail = pad && body.Length % 2 == 1 ? [0] : [];
        return [.. Encoding.ASCII.GetBytes(id), .. size, .. body, .. tail];
    }

    private static byte[] Format(ushort tag, ushort channels, int rate, ushort frame, ushort bits, bool extensible = false)
    {
        var body = new byte[extensible ? 40 : 16];
        BinaryPrimitives.WriteUInt16LittleEndian(body, tag);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(2), channels);
        BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(4), rate);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(12), frame);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(14), bits);
        if (extensible)
        {
            byte[] tail = [22, 0, 20, 0, 3, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xAA, 0, 0x38, 0x9B, 0x71];
            tail.CopyTo(body, 16);
        }
        return body;
    }
}
