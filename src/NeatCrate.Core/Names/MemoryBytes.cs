using System.Runtime.InteropServices;

namespace NeatCrate.Core.Names;

/// <summary>Bytes as a stream wants them.</summary>
internal static class MemoryBytes
{
    /// <summary>The array that holds the bytes, without a copy where there is one.</summary>
    public static byte[] ToArrayOrSelf(this ReadOnlyMemory<byte> bytes, out int offset, out int length)
    {
        length = bytes.Length;
        if (MemoryMarshal.TryGetArray(bytes, out var segment))
        {
            offset = segment.Offset;
            return segment.Array!;
        }
        offset = 0;
        return bytes.ToArray();
    }
}
