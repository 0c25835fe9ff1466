using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>Converted copies, as the runner makes them, against mathematics and against SoX.</summary>
public sealed class ResamplerTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private (MediaHeader Header, float[] Samples) Convert(string source, int rate)
    {
        var path = Path.Combine(_temp.Path, $"converted {rate}.wav");
        new MemoryJournal().Apply(new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Import,
            Sentence = "test",
            WritableRoots = [_temp.Path],
            Steps = [new MakeFileStep(path, "test", new Transformed(new WholeFile(source, FileState.Of(source)), new ConvertRate(rate)), 1000)],
        });
        return Read(path);
    }

    /// <summary>flac(1) made the file; a quarter of it is what a broken download leaves. A converted copy that is silent from there on would pass for the sound.</summary>
    [Theory]
    [InlineData("whole.flac")]
    [InlineData("whole.ogg")]
    public void ASoundThatIsCutOffIsNotConverted(string name)
    {
        var (path, copy) = (_temp.At(name), _temp.At("converted.wav"));
        Tool.Run("sox", "-n", "-r", "44100", "-c", "1", path, "synth", "10", "pinknoise");
        var bytes = File.ReadAllBytes(path);
        File.WriteAllBytes(path, bytes[..(bytes.Length / 4)]);
        var header = MediaHeaderReader.ReadFile(path)!;
        var plan = new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Import,
            Sentence = "test",
            WritableRoots = [_temp.Path],
            Steps = [new MakeFileStep(copy, "test", new Transformed(new WholeFile(path, FileState.Of(path)), new ConvertRate(48000)), 1000)],
        };
        var result = new MemoryJournal().TryApply(plan);
        if (header.LengthSamples is null or < 400_000)
        {
            // An Ogg file tells its length by its last page: what is there is all that it claims.
            Assert.Equal("whole.ogg", name);
            return;
        }
        Assert.Equal((PlanOutcome.Failed, FaultCode.SoundCutShort, true), (result.Outcome, result.Cause!.Code, result.IsAsBefore));
        Assert.False(File.Exists(copy));
    }

    /// <summary>Without an Info frame an MPEG file does not tell its padding: the copy has the length that the document says all the same.</summary>
    [Fact]
    public void AConvertedCopyIsAsLongAsTheDocumentSays()
    {
        var path = _temp.At("plain.mp3");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=44100:duration=8", "-write_xing", "0", path);
        var counted = MediaHeaderReader.ReadFile(path)!.LengthSamples!.Value;
        Assert.Equal((counted * 48000 + 44099) / 44100, Convert(path, 48000).Header.LengthSamples);
    }

    /// <summary>Opus counts at 48 kHz whatever it was made from (RFC 7845, section 4): made by ffmpeg(1) from any rate, it is converted whole.</summary>
    [Theory]
    [InlineData(8000)]
    [InlineData(12000)]
    [InlineData(16000)]
    [InlineData(24000)]
    [InlineData(48000)]
    public void OpusOfAnyRateIsConvertedWhole(int rate)
    {
        var path = _temp.At("a.opus");
        Tool.Run("ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=sample_rate=48000:duration=1.5", "-ar", $"{rate}", "-c:a", "libopus", path);
        var header = MediaHeaderReader.ReadFile(path)!;
        Assert.Equal(48000, header.SampleRate);
        Assert.InRange(Convert(path, 44100).Header.LengthSamples!.Value - (header.LengthSamples!.Value * 44100 / 48000), -8, 8);
    }

    private static (MediaHeader Header, float[] Samples) Read(string path)
    {
        var header = MediaHeaderReader.ReadFile(path)!;
        using var reader = SoundReader.Open(path, header);
        var samples = new float[reader.LengthSamples * reader.Channels];
        Assert.Equal(reader.LengthSamples, reader.Read(samples));
        return (header, samples);
    }

    private string Sine(int rate, double frequency, int samples, double level = 0.5)
    {
        var path = _temp.At($"sine {rate} {frequency}.wav");
        using var stream = File.Create(path);
        using var writer = new WavWriter(stream, new PcmFormat(rate, 1, 32), new BroadcastExtension("Tide", "Wren", "", "2026-10-14", "20:00:00", (ulong)rate * 3600));
        writer.Write([.. Enumerable.Range(0, samples).Select(n => (float)(level * Math.Sin(2 * Math.PI * frequency * n / rate)))]);
        return path;
    }

    /// <summary>A sine at one rate is the same sine at the other: what differs is noise of the converter, told as -145 dB, and the rounding of 32-bit floats.</summary>
    [Theory]
    [InlineData(44100, 48000, 440)]
    [InlineData(44100, 48000, 15_000)]
    [InlineData(96000, 44100, 1000)]
    [InlineData(48000, 96000, 10_000)]
    public void ASineStaysTheSameSine(int from, int to, double frequency)
    {
        var (header, samples) = Convert(Sine(from, frequency, from), to);
        Assert.Equal((to, 1, 32, SampleEncoding.FloatingPoint), (header.SampleRate, header.Channels, header.BitsPerSample, header.Encoding));
        // At its ends the sine begins and breaks off, which no band holds.
        var error = 0.0;
        var inner = Enumerable.Range(to / 10, to * 8 / 10).ToList();
        foreach (var n in inner)
        {
            error += Math.Pow(samples[n] - (0.5 * Math.Sin(2 * Math.PI * frequency * n / to)), 2);
        }
        var decibel = 10 * Math.Log10(error / inner.Count / (0.5 * 0.5 / 2));
        Assert.True(decibel < -100, $"{decibel:0} dB");
    }

    /// <summary>What lies above half the new rate is not folded back into what can be heard.</summary>
    [Theory]
    [InlineData(96000, 44100, 30_000)]
    [InlineData(48000, 44100, 23_000)]
    public void WhatTheNewRateCannotHoldIsGone(int from, int to, double frequency)
    {
        var samples = Convert(Sine(from, frequency, from), to).Samples;
        var power = Enumerable.Range(to / 10, to * 8 / 10).Average(n => Math.Pow(samples[n], 2));
        var decibel = 10 * Math.Log10(power / (0.5 * 0.5 / 2));
        Assert.True(decibel < -140, $"{decibel:0} dB");
    }

    /// <summary>Noise below 18 kHz, converted by SoX's "rate -v" as well: two good converters agree.</summary>
    [Fact]
    public void SoxConvertsNoiseToTheSame()
    {
        var (source, theirs) = (_temp.At("noise.wav"), _temp.At("sox.wav"));
        Tool.Run("sox", "-R", "-n", "-r", "44100", "-b", "24", "-c", "2", source, "synth", "1", "whitenoise", "gain", "-12", "sinc", "-t", "1000", "-16k");
        Tool.Run("sox", "-D", source, "-e", "floating-point", "-b", "32", theirs, "rate", "-v", "48000");
        var ours = Convert(source, 48000);
        var sox = Read(theirs);
        Assert.Equal(sox.Samples.Length, ours.Samples.Length);
        var (difference, level) = (0.0, 0.0);
        for (var n = 4000; n < ours.Samples.Length - 4000; n++)
        {
            difference += Math.Pow(ours.Samples[n] - sox.Samples[n], 2);
            level += Math.Pow(sox.Samples[n], 2);
        }
        var decibel = 10 * Math.Log10(difference / level);
        Assert.True(decibel < -90, $"{decibel:0} dB");
    }

    [Theory]
    [InlineData(44100, 48000, 44101, 48002)]
    [InlineData(48000, 44100, 1, 1)]
    [InlineData(48000, 96000, 777, 1554)]
    [InlineData(44100, 48000, 0, 0)]
    public void TheResultIsAsLongAsItsTimeToTheSample(int from, int to, int samples, int expected) =>
        Assert.Equal(expected, Convert(Sine(from, 100, samples), to).Header.LengthSamples);

    [Fact]
    public void TheTimeReferenceCountsAtTheNewRate()
    {
        // One hour after midnight (EBU Tech 3285: samples since midnight).
        var broadcast = Convert(Sine(44100, 440, 4410), 48000).Header.Broadcast!;
        Assert.Equal((48000UL * 3600, "Tide"), (broadcast.TimeReference, broadcast.Description));
    }

    [Fact]
    public void CompressedSoundIsConvertedAsWell()
    {
        var flac = _temp.At("tone.flac");
        Tool.Run("sox", "-n", "-r", "44100", "-b", "16", "-c", "2", flac, "synth", "0.5", "sine", "440");
        Assert.Equal((48000, 2, 24000L), Convert(flac, 48000).Header is var h ? (h.SampleRate, h.Channels, h.LengthSamples!.Value) : default);
    }
}
