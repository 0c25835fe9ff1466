using System.Buffers;
using System.Globalization;
using System.Security.Cryptography;

namespace NeatCrate.Core.Vault;

/// <summary>The SHA-512 of content (FIPS 180-4), by which a vault names it and anybody can check it.</summary>
public readonly record struct ContentHash
{
    /// <summary>Its hexadecimal digits.</summary>
    public const int Digits = 128;

    private const int PartDigits = 32;
    private const int PartBytes = 16;
    private const int BufferBytes = 1024 * 1024;

    private static readonly SearchValues<char> HexDigits = SearchValues.Create("0123456789abcdef");

    private readonly UInt128 _a;
    private readonly UInt128 _b;
    private readonly UInt128 _c;
    private readonly UInt128 _d;

    /// <summary>Takes in the 64 bytes of a hash.</summary>
    public ContentHash(ReadOnlySpan<byte> sha512)
    {
        ArgumentOutOfRangeException.ThrowIfNotEqual(sha512.Length, SHA512.HashSizeInBytes);
        _a = System.Buffers.Binary.BinaryPrimitives.ReadUInt128BigEndian(sha512);
        _b = System.Buffers.Binary.BinaryPrimitives.ReadUInt128BigEndian(sha512[PartBytes..]);
        _c = System.Buffers.Binary.BinaryPrimitives.ReadUInt128BigEndian(sha512[(2 * PartBytes)..]);
        _d = System.Buffers.Binary.BinaryPrimitives.ReadUInt128BigEndian(sha512[(3 * PartBytes)..]);
    }

    private ContentHash(UInt128 a, UInt128 b, UInt128 c, UInt128 d) => (_a, _b, _c, _d) = (a, b, c, d);

    /// <summary>The hash of bytes in memory.</summary>
    public static ContentHash Of(ReadOnlySpan<byte> bytes)
    {
        Span<byte> hash = stackalloc byte[SHA512.HashSizeInBytes];
        SHA512.HashData(bytes, hash);
        return new ContentHash(hash);
    }

    /// <summary>Reads a whole file and tells its hash.</summary>
    /// <exception cref="FaultException">It cannot be opened or read.</exception>
    public static ContentHash OfFile(string path, CancellationToken cancel = default)
    {
        using var handle = ReadableFile.Open(path);
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            var offset = 0L;
            for (int count; (count = ReadableFile.Read(handle, path, buffer.AsSpan(0, BufferBytes), offset)) > 0; offset += count)
            {
                cancel.ThrowIfCancellationRequested();
                hash.AppendData(buffer, 0, count);
            }
            return Take(hash);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>Reads a stream to its end and tells its hash.</summary>
    /// <param name="from">The stream.</param>
    /// <param name="each">Gets what was read, piece by piece: it may be written elsewhere on the way.</param>
    /// <param name="cancel">Stops between two pieces.</param>
    public static ContentHash OfStream(Stream from, Action<ReadOnlyMemory<byte>>? each, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(from);
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            for (int count; (count = from.Read(buffer, 0, BufferBytes)) > 0;)
            {
                cancel.ThrowIfCancellationRequested();
                hash.AppendData(buffer, 0, count);
                each?.Invoke(buffer.AsMemory(0, count));
            }
            return Take(hash);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>The hash of what was appended so far; the hashing begins anew.</summary>
    public static ContentHash Take(IncrementalHash from)
    {
        ArgumentNullException.ThrowIfNull(from);
        Span<byte> hash = stackalloc byte[SHA512.HashSizeInBytes];
        from.GetHashAndReset(hash);
        return new ContentHash(hash);
    }

    /// <summary>Reads 128 lower-case hexadecimal digits.</summary>
    /// <returns>False for any other text.</returns>
    public static bool TryParse(ReadOnlySpan<char> text, out ContentHash hash)
    {
        hash = default;
        if (text.Length != Digits || text.ContainsAnyExcept(HexDigits))
        {
            return false;
        }
        hash = new ContentHash(Part(text, 0), Part(text, 1), Part(text, 2), Part(text, 3));
        return true;
    }

    private static UInt128 Part(ReadOnlySpan<char> text, int part) =>
        UInt128.Parse(text.Slice(part * PartDigits, PartDigits), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture);

    /// <summary>128 lower-case hexadecimal digits.</summary>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{_a:x32}{_b:x32}{_c:x32}{_d:x32}");
}
