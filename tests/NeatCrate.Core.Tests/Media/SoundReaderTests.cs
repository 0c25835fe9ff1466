using System.Buffers.Binary;
using System.Globalization;
using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>Samples against the world outside: SoX and FFmpeg decode the same files to raw floating point.</summary>
public sealed class SoundReaderTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private string Make(string name, string options, double seconds = 0.5, int rate = 48000, int channels = 2)
    {
        var path = _temp.At(name);
        Tool.Run("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", string.Create(CultureInfo.InvariantCulture, $"sine=frequency=330:sample_rate={rate}:duration={seconds}"), "-ac", $"{channels}", .. options.Split(' '), path]);
        return path;
    }

    private static float[] Read(string path)
    {
        using var reader = SoundReader.Open(path, MediaHeaderReader.ReadFile(path)!);
        var samples = new float[reader.LengthSamples * reader.Channels];
        Assert.Equal(reader.LengthSamples, reader.Read(samples));
        return samples;
    }

    private float[] Decoded(string path)
    {
        var raw = _temp.At("decoded.raw");
        Tool.Run("ffmpeg", "-v", "error", "-y", "-i", path, "-f", "f32le", raw);
        var bytes = File.ReadAllBytes(raw);
        return [.. Enumerable.Range(0, bytes.Length / 4).Select(n => BinaryPrimitives.ReadSingleLittleEndian(bytes.AsSpan(4 * n)))];
    }

    [Theory]
    [InlineData("a.wav", "-c:a pcm_u8")]
    [InlineData("a.wav", "-c:a pcm_s16le")]
    [InlineData("a.wav", "-c:a pcm_s24le")]
    [InlineData("a.wav", "-c:a pcm_s32le")]
    [InlineData("a.wav", "-c:a pcm_f32le")]
    [InlineData("a.wav", "-c:a pcm_f64le")]
    [InlineData("a.wav", "-c:a pcm_alaw")]
    [InlineData("a.aiff", "-c:a pcm_s16be")]
    [InlineData("a.aiff", "-c:a pcm_s24be")]
    [InlineData("a.aiff", "-c:a pcm_f32be")]
    [InlineData("a.aiff", "-c:a pcm_s16le")]
    [InlineData("a.flac", "-c:a flac")]
    public void EverySampleIsTheOneThatFfmpegDecodes(string name, string options)
    {
        var path = Make(name, options);
        var (ours, theirs) = (Read(path), Decoded(path));
        Assert.Equal(theirs.Length, ours.Length);
        Assert.All(ours.Zip(theirs), pair => Assert.InRange(pair.First - pair.Second, -1e-6, 1e-6));
        Assert.Contains(ours, s => Math.Abs(s) > 0.05);
    }

    [Theory]
    [InlineData("a.ogg", "-c:a libvorbis")]
    [InlineData("a.opus", "-c:a libopus")]
    [InlineData("a.mp3", "-c:a libmp3lame")]
    public void CompressedSoundIsDecoded(string name, string options)
    {
        var samples = Read(Make(name, options));
        Assert.Equal(48000, samples.Length);
        // A sine at an eighth of full scale, as FFmpeg makes it, spread over two channels by the root of a half.
        Assert.InRange(samples.Max(), 0.08f, 0.1f);
    }

    [Theory]
    [InlineData("a.wav", "-c:a pcm_s24le")]
    [InlineData("a.flac", "-c:a flac")]
    public void ReadingFromTheMiddleGivesTheSameSamples(string name, string options)
    {
        var path = Make(name, options);
        var whole = Read(path);
        using var reader = SoundReader.Open(path, MediaHeaderReader.ReadFile(path)!);
        reader.Seek(12_345);
        var part = new float[200];
        Assert.Equal(100, reader.Read(part));
        Assert.Equal(whole[(2 * 12_345)..((2 * 12_345) + 200)], part);
        reader.Seek(long.MaxValue);
        Assert.Equal(0, reader.Read(part));
    }

    [Fact]
    public void AnUnfinishedRecordingIsReadToItsEnd()
    {
        var path = Make("a.wav", "-c:a pcm_s16le -bitexact");
        var bytes = File.ReadAllBytes(path);
        var data = bytes.AsSpan().IndexOf("data"u8);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(data + 4), 0);
        File.WriteAllBytes(_temp.At("cut.wav"), bytes);
        Assert.Equal(Read(path), Read(_temp.At("cut.wav")));
    }

    [Fact]
    public void WhatCannotBeDecodedSaysSo()
    {
        var path = Make("a.flac", "-c:a flac");
        var header = MediaHeaderReader.ReadFile(path)!;
        File.WriteAllText(path, "no sound at all");
        Assert.Equal(FaultCode.SoundNotDecoded, Assert.Throws<UnreadableMediaException>(() => SoundReader.Open(path, header)).Fault.Code);
    }

    /// <summary>The stream that a browser gets is a WAV file that SoX reads, the same from any place on.</summary>
    [Theory]
    [InlineData("a.aiff", "-c:a pcm_s24be")]
    [InlineData("a.opus", "-c:a libopus")]
    public void TheDecodedStreamIsAWavFileWhoseBytesCanBeHadInAnyOrder(string name, string options)
    {
        var path = Make(name, options);
        using var stream = new DecodedWavStream(SoundReader.Open(path, MediaHeaderReader.ReadFile(path)!));
        using var whole = new MemoryStream();
        stream.CopyTo(whole, 1000);
        Assert.Equal(stream.Length, whole.Length);
        File.WriteAllBytes(_temp.At("decoded.wav"), whole.ToArray());
        Assert.Equal(("24000", "2", "16"), (Tool.Run("soxi", "-s", _temp.At("decoded.wav")).Trim(), Tool.Run("soxi", "-c", _temp.At("decoded.wav")).Trim(), Tool.Run("soxi", "-b", _temp.At("decoded.wav")).Trim()));
        if (name == "a.aiff")
        {
            foreach (var at in new[] { 0, 43, 44, 45, 50_001, 95_999 })
            {
                stream.Position = at;
                var part = new byte[(int)Math.Min(37, stream.Length - at)];
                stream.ReadExactly(part);
                Assert.Equal(whole.ToArray()[at..(at + part.Length)], part);
            }
        }
    }
}
