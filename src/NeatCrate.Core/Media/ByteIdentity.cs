using System.Buffers;
using System.Globalization;
using System.IO.Hashing;

namespace NeatCrate.Core.Media;

/// <summary>The identity of a file's bytes: its length in bytes and the XxHash128 of all of them.</summary>
public readonly record struct ByteIdentity(long Bytes, UInt128 Hash)
{
    private const int BufferBytes = 1024 * 1024;

    /// <summary>The hash as 32 lower-case hexadecimal digits.</summary>
    public string Hex => Hash.ToString("x32", CultureInfo.InvariantCulture);

    /// <summary>Reads what <see cref="ToString"/> wrote.</summary>
    public static ByteIdentity Parse(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        return new ByteIdentity(
            long.Parse(text.AsSpan(0, colon), CultureInfo.InvariantCulture),
            UInt128.Parse(text.AsSpan(colon + 1), NumberStyles.HexNumber, CultureInfo.InvariantCulture));
    }

    /// <summary>Identity of bytes in memory.</summary>
    public static ByteIdentity Of(ReadOnlySpan<byte> bytes) => new(bytes.Length, XxHash128.HashToUInt128(bytes));

    /// <summary>Reads a whole file and tells its identity.</summary>
    /// <param name="path">The file.</param>
    /// <param name="read">Told the number of bytes after every read.</param>
    /// <param name="cancel">Stops between two reads.</param>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    public static ByteIdentity OfFile(string path, Action<long>? read = null, CancellationToken cancel = default)
    {
        using var handle = ReadableFile.Open(path);
        var hash = new XxHash128();
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            var offset = 0L;
            while (true)
            {
                cancel.ThrowIfCancellationRequested();
                var count = RandomAccess.Read(handle, buffer, offset);
                if (count == 0)
                {
                    return new ByteIdentity(offset, hash.GetCurrentHashAsUInt128());
                }
                hash.Append(buffer.AsSpan(0, count));
                offset += count;
                read?.Invoke(count);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>Length and hash, as <c>bytes:hex</c>.</summary>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Bytes}:{Hex}");
}
