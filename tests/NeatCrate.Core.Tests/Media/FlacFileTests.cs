using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

/// <summary>Files that we pack ourselves, checked by Debian's <c>flac</c>: its test of each frame and of the MD5, and what it unpacks.</summary>
public sealed class FlacFileTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    [Theory]
    [InlineData(1, 24)]
    [InlineData(2, 24)]
    [InlineData(2, 16)]
    public void WhatIsPackedUnpacksSampleForSample(int channels, int bits)
    {
        var random = new Random(3);
        var samples = Enumerable.Range(0, 9_001 * channels).Select(_ => random.Next(int.MinValue, int.MaxValue) >> (32 - bits) << (32 - bits)).ToArray();
        var (packed, raw) = (_temp.At("a.flac"), _temp.At("a.raw"));
        using (var stream = File.Create(packed))
        {
            FlacFile.Write(stream, 48_000, channels, bits, samples);
        }
        Tool.Run("flac", "--silent", "--test", packed);
        Tool.Run("flac", "--silent", "--decode", "--force-raw-format", "--endian=little", "--sign=signed", "-o", raw, packed);
        var bytes = bits / 8;
        var expected = samples.SelectMany(s => BitConverter.GetBytes(s >> (32 - bits))[..bytes]).ToArray();
        Assert.Equal(expected, File.ReadAllBytes(raw));
        var header = MediaHeaderReader.ReadFile(packed)!;
        Assert.Equal(("FLAC", 48_000, channels, bits, 9_001L), (header.Container, header.SampleRate, header.Channels, header.BitsPerSample, header.LengthSamples!.Value));
    }
}
