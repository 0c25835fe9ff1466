using System.IO.Hashing;

namespace NeatCrate.Core.Arrivals;

/// <summary>A first look at two files that may be the same: takes of one pass are all equally long, and reading them whole takes its time.</summary>
internal static class ByteProbe
{
    private const int Bytes = 16 * 1024;

    /// <summary>False when a few bytes of both, from the given offsets on, differ, or one cannot be read.</summary>
    public static bool AreSame(string one, string other, long oneOffset, long otherOffset)
    {
        Span<byte> a = stackalloc byte[Bytes];
        Span<byte> b = stackalloc byte[Bytes];
        try
        {
            return a[..Read(one, oneOffset, a)].SequenceEqual(b[..Read(other, otherOffset, b)]);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>A hash of a few bytes of a file, from an offset on; null where it cannot be read.</summary>
    public static UInt128? At(string path, long offset)
    {
        Span<byte> bytes = stackalloc byte[Bytes];
        try
        {
            return XxHash128.HashToUInt128(bytes[..Read(path, offset, bytes)]);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    private static int Read(string path, long offset, Span<byte> buffer)
    {
        using var handle = ReadableFile.Open(path);
        return RandomAccess.Read(handle, buffer, offset);
    }
}
