using System.Buffers.Binary;
using System.Security.Cryptography;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Media;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Origins;

/// <summary>
/// Sound packed as FLAC comes back bit for bit, with all that stood beside the samples. Held against the reference tool (flac), which must find no fault in
/// what we made, and bring back the same bytes.
/// </summary>
public sealed class PackedSoundTests : IDisposable
{
    private const int Seed = 20_261_014;

    private readonly TempFolder _temp = new();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public void Dispose() => _temp.Dispose();

    private static byte[] Chunk(string id, byte[] body, bool isBig = false)
    {
        var size = new byte[4];
        if (isBig)
        {
            BinaryPrimitives.WriteInt32BigEndian(size, body.Length);
        }
        else
        {
            BinaryPrimitives.WriteInt32LittleEndian(size, body.Length);
        }
        return [.. System.Text.Encoding.ASCII.GetBytes(id), .. size, .. body, .. new byte[body.Length & 1]];
    }

    private static byte[] Riff(params byte[][] chunks) => [.. Chunk("RIFF", [.. "WAVE"u8, .. chunks.SelectMany(c => c)])];

    private static byte[] Format(int channels, int bits, int rate = 48_000, bool isExtensible = false, int? validBits = null)
    {
        var body = new byte[isExtensible ? 40 : 16];
        BinaryPrimitives.WriteUInt16LittleEndian(body, isExtensible ? (ushort)0xFFFE : (ushort)1);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(2), (ushort)channels);
        BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(4), rate);
        BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(8), rate * channels * bits / 8);
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(12), (ushort)(channels * bits / 8));
        BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(14), (ushort)bits);
        if (isExtensible)
        {
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(16), 22);
            BinaryPrimitives.WriteUInt16LittleEndian(body.AsSpan(18), (ushort)(validBits ?? bits));
            BinaryPrimitives.WriteInt32LittleEndian(body.AsSpan(20), channels == 2 ? 3 : 4);
            Convert.FromHexString("0100000000001000800000AA00389B71").CopyTo(body.AsSpan(24));
        }
        return Chunk("fmt ", body);
    }

    private static byte[] Bytes(Random random, int count)
    {
        var bytes = new byte[count];
        random.NextBytes(bytes);
        return bytes;
    }

    /// <summary>Samples that sound like something: a tone with a little noise, in which extremes come up as well.</summary>
    private static byte[] Samples(Random random, int frames, int channels, int bits, bool isBig = false)
    {
        var (bytes, integers) = (new byte[frames * channels * bits / 8], new StoredIntegers(48_000, channels, bits, isBig, bits == 8));
        var samples = Enumerable.Range(0, frames * channels).Select(n => random.Next(400) switch
        {
            0 => int.MinValue,
            1 => int.MaxValue,
            _ => (int)((Math.Sin(n / (double)channels / 20) * 0.6 * int.MaxValue) + random.Next(-20_000_000, 20_000_000)),
        }).ToArray();
        integers.Write(samples, bytes);
        return bytes;
    }

    private static byte[] Aiff(Random random, int frames, int channels, int bits)
    {
        var common = new byte[18];
        BinaryPrimitives.WriteInt16BigEndian(common, (short)channels);
        BinaryPrimitives.WriteInt32BigEndian(common.AsSpan(2), frames);
        BinaryPrimitives.WriteInt16BigEndian(common.AsSpan(6), (short)bits);
        Convert.FromHexString("400EBB80000000000000").CopyTo(common.AsSpan(8));
        return Chunk("FORM", [.. "AIFF"u8, .. Chunk("COMM", common, true), .. Chunk("NAME", Bytes(random, 13), true), .. Chunk("SSND", [.. new byte[8], .. Samples(random, frames, channels, bits, true)], true), .. Chunk("APPL", Bytes(random, 40), true)], true);
    }

    private static byte[] Wav(Random random, int frames, int channels, int bits) => Riff(
    [
        .. random.Next(2) == 0 ? [Chunk("JUNK", Bytes(random, random.Next(60)))] : Array.Empty<byte[]>(),
        .. random.Next(2) == 0 ? [Chunk("bext", BroadcastExtensionChunk.Write(new BroadcastExtension("A line", "Us", "R", "2026-10-14", "23:30:00", 123_456_789)))] : Array.Empty<byte[]>(),
        Format(channels, bits, isExtensible: bits == 24 && channels <= 2 && random.Next(2) == 0),
        .. random.Next(2) == 0 ? [Chunk("what", Bytes(random, random.Next(1, 99)))] : Array.Empty<byte[]>(),
        Chunk("data", Samples(random, frames, channels, bits)),
        .. random.Next(2) == 0 ? [Chunk("LIST", Bytes(random, random.Next(4, 99)))] : Array.Empty<byte[]>(),
        .. random.Next(2) == 0 ? [Chunk("odd ", Bytes(random, 7))] : Array.Empty<byte[]>(),
    ]);

    private string Write(string name, byte[] bytes)
    {
        var path = Path.Combine(_temp.Path, name);
        File.WriteAllBytes(path, bytes);
        return path;
    }

    private static WholeFile Whole(string path) => new(path, FileState.Of(path));

    private static string Packed(string path, FaultyFiles? files = null)
    {
        var made = Path.ChangeExtension(path, ".flac");
        using var reading = new OriginReading(files ?? new FaultyFiles(), cancel: Cancel);
        using (var to = File.Create(made))
        {
            using var sink = new HashingSink(to.Write, use => $"{made}.{use}");
            var (_, original, _) = new PackedSound(Whole(path), Path.GetExtension(path)).Pack(sink, reading);
            Assert.Equal(Convert.ToHexStringLower(SHA512.HashData(File.ReadAllBytes(path))), original.ToString());
        }
        Assert.False(File.Exists(made + ".Made"));
        return made;
    }

    /// <summary>
    /// Two hundred files of every depth and number of channels, with chunks before and after the samples, known and unknown, of odd lengths, empty ones
    /// among them.
    /// </summary>
    [Fact]
    public void WhatIsPackedComesBackBitForBit()
    {
        var random = new Random(Seed);
        for (var n = 0; n < 200; n++)
        {
            var (channels, bits, frames) = (random.Next(1, 9), new[] { 8, 16, 24 }[n % 3], random.Next(10) switch { 0 => random.Next(1, 20), _ => random.Next(1000, 40_000) });
            var isAiff = n % 5 == 0;
            var path = Write(isAiff ? $"{n}.aiff" : $"{n}.wav", isAiff ? Aiff(random, frames, channels, bits == 8 ? 16 : bits) : Wav(random, frames, channels, bits));
            var (file, flac) = (File.ReadAllBytes(path), Packed(path));
            var ours = new MemoryStream();
            FlacPacker.Restore(flac, ours.Write, Cancel);
            Assert.Equal(file, ours.ToArray());
            Tool.Run("flac", "--test", "--silent", flac);
            var theirs = Path.Combine(_temp.Path, "back" + Path.GetExtension(path));
            using var source = ByteSource.OpenFile(path);
            string[] told = SoundShell.Of(source, MediaHeaderReader.ReadFile(path)!)!.IsPlainWave ? ["--force-legacy-wave-format"] : [];
            Tool.Run("flac", ["--decode", "--force", "--silent", "--keep-foreign-metadata", .. told, "-o", theirs, flac]);
            Assert.True(file.AsSpan().SequenceEqual(File.ReadAllBytes(theirs)), $"{n}: {channels} channels of {bits} bits, {frames} long");
        }
    }

    /// <summary>Twenty bits in three bytes come back with whatever stands in the four others.</summary>
    [Fact]
    public void BitsThatDoNotCountComeBackAsWell()
    {
        var path = Write("twenty.wav", Riff(Format(2, 24, isExtensible: true, validBits: 20), Chunk("data", Bytes(new Random(Seed), 6 * 5000))));
        var ours = new MemoryStream();
        FlacPacker.Restore(Packed(path), ours.Write, Cancel);
        Assert.Equal(File.ReadAllBytes(path), ours.ToArray());
    }

    public static TheoryData<string> Unfit =>
        ["float", "nine channels", "bytes after the end", "size too large", "size too small", "cut short", "two runs of samples", "half a sample", "pad is not zero", "samples first", "thirty-two bits", "RF64", "offset in AIFF", "not sound", "unusual channels", "long format of sixteen bits", "format with a rest"];

    /// <summary>What would not come back bit for bit, or what FLAC does not hold, is not packed: it goes as it is.</summary>
    [Theory]
    [MemberData(nameof(Unfit))]
    public void WhatWouldNotComeBackIsNotPacked(string kind)
    {
        var random = new Random(Seed);
        var data = Chunk("data", Samples(random, 3001, 1, 24));
        var good = Riff(Format(1, 24), data);
        byte[] With(int at, byte[] what)
        {
            var bytes = good.ToArray();
            what.CopyTo(bytes, at < 0 ? bytes.Length + at : at);
            return bytes;
        }
        var aiff = Aiff(random, 2000, 1, 16);
        var path = Write(kind == "offset in AIFF" ? "x.aiff" : "x.wav", kind switch
        {
            "float" => With(20, [3, 0]),
            "nine channels" => Riff(Format(9, 16), Chunk("data", Samples(random, 500, 9, 16))),
            "bytes after the end" => [.. good, 1, 2, 3],
            "size too large" => With(4, BitConverter.GetBytes(good.Length)),
            "size too small" => With(4, BitConverter.GetBytes(good.Length - 10)),
            "cut short" => good[..^100],
            "two runs of samples" => Riff(Format(1, 24), data, data),
            "half a sample" => Riff(Format(1, 24), Chunk("data", Bytes(random, 3002))),
            "pad is not zero" => With(-1, [7]),
            "samples first" => Riff(data, Format(1, 24)),
            "thirty-two bits" => Riff(Format(1, 32), Chunk("data", Bytes(random, 4000))),
            "RF64" => [.. "RF64"u8, 0xFF, 0xFF, 0xFF, 0xFF, .. "WAVE"u8, .. Chunk("ds64", [.. BitConverter.GetBytes(good.Length + 28L), .. BitConverter.GetBytes(9003L), .. new byte[12]]), .. good[12..]],
            "offset in AIFF" => [.. aiff[..(aiff.AsSpan().IndexOf("SSND"u8) + 11)], 2, .. aiff[(aiff.AsSpan().IndexOf("SSND"u8) + 12)..]],
            "unusual channels" => Riff([.. Format(2, 24, isExtensible: true)[..28], 12, 0, 0, 0, .. Format(2, 24, isExtensible: true)[32..]], Chunk("data", Samples(random, 500, 2, 24))),
            "long format of sixteen bits" => Riff(Format(2, 16, isExtensible: true), Chunk("data", Samples(random, 500, 2, 16))),
            "format with a rest" => Riff(Chunk("fmt ", [.. Format(1, 24)[8..], 0, 0]), data),
            _ => "no sound at all, whatever it is called"u8.ToArray(),
        });
        Assert.Null(new PackedSizes().Of(Whole(path)));
        // The one that nothing was done to is.
        Assert.NotNull(new PackedSizes().Of(Whole(Write("good.wav", good))));
        using var reading = new OriginReading(new FaultyFiles(), cancel: Cancel);
        using var sink = new HashingSink(null, use => Path.Combine(_temp.Path, use.ToString()));
        Assert.Throws<FaultException>(() => new PackedSound(Whole(path), ".wav").WriteTo(sink, reading));
        Assert.Equal(0, sink.Length);
    }

    /// <summary>Before anybody gets it, it is decoded again: a bit that fell over on the way is seen, wherever it stands.</summary>
    [Theory]
    [InlineData(60)]
    [InlineData(30_000)]
    [InlineData(-5)]
    public void ABitThatFellOverIsSeen(int at)
    {
        var path = Write("x.wav", Wav(new Random(1), 40_000, 2, 24));
        var made = Path.ChangeExtension(path, ".flac") + ".Made";
        var files = new FaultyFiles();
        var writes = 0;
        files.After = (call, name) =>
        {
            if (call == "write" && name == made && new FileInfo(made).Length > 100_000 && writes == 0)
            {
                writes++;
                using var file = new FileStream(made, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite);
                file.Position = at < 0 ? file.Length + at : at;
                var was = file.ReadByte();
                file.Position--;
                file.WriteByte((byte)(was ^ 4));
            }
        };
        var fault = Assert.Throws<FaultException>(() => Packed(path, files)).Fault;
        Assert.Equal((FaultCode.NotPackedWithoutLoss, path), (fault.Code, fault.Path));
        Assert.True(writes > 0);
    }

    /// <summary>What changes while it is packed is a mixture that never was.</summary>
    [Fact]
    public void WhatChangesMeanwhileIsNotPacked()
    {
        var path = Write("x.wav", Wav(new Random(1), 40_000, 2, 24));
        var files = new FaultyFiles();
        var isTouched = false;
        files.After = (call, _) =>
        {
            if (call == "write" && !isTouched)
            {
                isTouched = true;
                using var file = new FileStream(path, FileMode.Open, FileAccess.Write, FileShare.ReadWrite);
                file.Position = 200_000;
                file.WriteByte(9);
            }
        };
        Assert.Equal(FaultCode.SourceChanged, Assert.Throws<FaultException>(() => Packed(path, files)).Fault.Code);
        Assert.True(isTouched);
    }

    /// <summary>How large it gets is told before to three in a hundred, for long files that change their sound as for short ones; and anew once the file is another.</summary>
    [Fact]
    public void HowLargeItGetsIsToldBefore()
    {
        var (told, made) = (0L, 0L);
        var sizes = new PackedSizes();
        foreach (var (name, effects) in new[]
        {
            ("long", "synth 200 pluck E2 : synth 60 sine 300 : synth 40 pinknoise : synth 100 pluck A3 tremolo 3"), ("quiet", "synth 300 pinknoise vol 0.01"), ("short", "synth 2 pluck C4"),
        })
        {
            var path = Path.Combine(_temp.Path, name + ".wav");
            Tool.Run("sox", ["-R", "-n", "-b", "24", "-r", "48000", "-c", "2", path, .. effects.Split(' ')]);
            var (size, packed) = (sizes.Of(Whole(path))!.Value, new FileInfo(Packed(path)).Length);
            Assert.InRange(size, packed * 0.95, packed * 1.05);
            (told, made) = (told + size, made + packed);
        }
        Assert.InRange(told, made * 0.97, made * 1.03);
        var file = Path.Combine(_temp.Path, "short.wav");
        var before = sizes.Of(Whole(file));
        File.WriteAllBytes(file, Riff(Format(1, 16), Chunk("data", new byte[40_000])));
        Assert.NotEqual(before, sizes.Of(Whole(file)));
    }
}
