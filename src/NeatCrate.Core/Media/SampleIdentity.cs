using System.Buffers.Binary;
using System.Globalization;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Media;

/// <summary>
/// The identity of the samples themselves, however they are stored: a WAV file and its FLAC share it, and so do 16 bits in a
/// file of 24. It is the XxHash128 of rate, channels and samples: integers as 32 bits with the highest first used, floating
/// point as 64 bits, so that nothing is rounded.
/// </summary>
/// <param name="Hash">The hash.</param>
public readonly record struct SampleIdentity(UInt128 Hash)
{
    private const int BlockFrames = 16 * 1024;
    private const int MostBlockBytes = 4 * 1024 * 1024;

    /// <summary>Reads what <see cref="ToString"/> wrote.</summary>
    public static SampleIdentity Parse(string text) => new(UInt128.Parse(text, NumberStyles.HexNumber, CultureInfo.InvariantCulture));

    /// <summary>The hash as 32 lower-case hexadecimal digits.</summary>
    public override string ToString() => Hash.ToString("x32", CultureInfo.InvariantCulture);

    /// <summary>True for a format whose samples are exact. What a lossy format holds depends on who decodes it, so it has no such identity.</summary>
    public static bool IsKnownFor(MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(header);
        return header.Encoding == SampleEncoding.Encoded ? header.Container is "FLAC" or "Ogg FLAC" : header.FrameBytes > 0 && IsExact(header);
    }

    /// <summary>Reads all samples of a file and tells their identity; null for a format that has none.</summary>
    /// <param name="path">The file.</param>
    /// <param name="header">What its header says.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="UnreadableMediaException">It cannot be decoded.</exception>
    /// <exception cref="FaultException">It cannot be read, or its sound ends before its header says.</exception>
    public static SampleIdentity? OfFile(string path, MediaHeader header, CancellationToken cancel = default) => OfFile(path, header, null, cancel);

    /// <summary>The same for whoever has to hold still at times.</summary>
    /// <param name="path">The file.</param>
    /// <param name="header">What its header says.</param>
    /// <param name="between">Called before each block is read.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="UnreadableMediaException">It cannot be decoded.</exception>
    /// <exception cref="FaultException">It cannot be read, or its sound ends before its header says.</exception>
    public static SampleIdentity? OfFile(string path, MediaHeader header, Action? between, CancellationToken cancel)
    {
        if (!IsKnownFor(header))
        {
            return null;
        }
        var hash = new XxHash128();
        var kind = header.Encoding == SampleEncoding.FloatingPoint ? "floating point" : "integer";
        hash.Append(Encoding.ASCII.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{header.SampleRate} {header.Channels} {kind}\n")));
        if (header.Encoding == SampleEncoding.Encoded)
        {
            AppendDecoded(path, header, hash, between, cancel);
        }
        else
        {
            AppendStored(path, header, hash, between, cancel);
        }
        return new SampleIdentity(hash.GetCurrentHashAsUInt128());
    }

    private static bool IsExact(MediaHeader header) => (header.Encoding, header.FrameBytes / header.Channels) switch
    {
        (SampleEncoding.UnsignedInteger, 1) => true,
        (SampleEncoding.SignedInteger, >= 1 and <= 4) => true,
        (SampleEncoding.FloatingPoint, 4 or 8) => true,
        _ => false,
    };

    private static void AppendDecoded(string path, MediaHeader header, XxHash128 hash, Action? between, CancellationToken cancel)
    {
        using var reader = new SndfileReader(path);
        var block = new int[Math.Max(1, Math.Min(BlockFrames, MostBlockBytes / sizeof(int) / reader.Channels)) * reader.Channels];
        var frames = 0L;
        for (int read; (read = reader.ReadIntegers(block)) > 0; frames += read)
        {
            cancel.ThrowIfCancellationRequested();
            between?.Invoke();
            hash.Append(MemoryMarshal.AsBytes(block.AsSpan(0, read * reader.Channels)));
        }
        if (reader.Failure is not null || (header.LengthSamples is { } length && frames < length))
        {
            throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = path, Count = frames, Expected = header.LengthSamples });
        }
    }

    private static void AppendStored(string path, MediaHeader header, XxHash128 hash, Action? between, CancellationToken cancel)
    {
        using SafeFileHandle handle = ReadableFile.Open(path);
        var width = header.FrameBytes / header.Channels;
        var bytes = new byte[BlockFrames * 4 * width];
        var exact = new byte[bytes.Length / width * sizeof(double)];
        var end = header.DataOffset + (header.DataBytes / header.FrameBytes * header.FrameBytes);
        for (var offset = header.DataOffset; offset < end;)
        {
            cancel.ThrowIfCancellationRequested();
            between?.Invoke();
            var read = ReadableFile.Read(handle, path, bytes.AsSpan(0, (int)Math.Min(bytes.Length, end - offset)), offset) / width * width;
            if (read == 0)
            {
                throw new FaultException(FaultCode.SourceTooShort, path);
            }
            hash.Append(exact.AsSpan(0, Exact(bytes.AsSpan(0, read), exact, width, header)));
            offset += read;
        }
    }

    /// <summary>Writes samples as they are hashed; gives how many bytes that are.</summary>
    private static int Exact(ReadOnlySpan<byte> stored, Span<byte> exact, int width, MediaHeader header)
    {
        var at = 0;
        for (var from = 0; from < stored.Length; from += width)
        {
            var sample = stored.Slice(from, width);
            if (header.Encoding == SampleEncoding.FloatingPoint)
            {
                BinaryPrimitives.WriteDoubleLittleEndian(exact[at..], Floating(sample, header.BigEndian));
                at += sizeof(double);
            }
            else
            {
                BinaryPrimitives.WriteInt32LittleEndian(exact[at..], Integer(sample, header));
                at += sizeof(int);
            }
        }
        return at;
    }

    private static double Floating(ReadOnlySpan<byte> sample, bool bigEndian) => (sample.Length, bigEndian) switch
    {
        (4, false) => BinaryPrimitives.ReadSingleLittleEndian(sample),
        (4, true) => BinaryPrimitives.ReadSingleBigEndian(sample),
        (_, false) => BinaryPrimitives.ReadDoubleLittleEndian(sample),
        (_, true) => BinaryPrimitives.ReadDoubleBigEndian(sample),
    };

    private static int Integer(ReadOnlySpan<byte> sample, MediaHeader header)
    {
        if (header.Encoding == SampleEncoding.UnsignedInteger)
        {
            return (sample[0] - 128) << 24;
        }
        var value = 0;
        for (var i = 0; i < sample.Length; i++)
        {
            value = (value << 8) | sample[header.BigEndian ? i : sample.Length - 1 - i];
        }
        return value << (32 - (8 * sample.Length));
    }
}
