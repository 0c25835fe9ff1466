using System.IO.Hashing;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>What was read of an item on a track: it is the same wherever these bytes stand on one.</summary>
/// <param name="Bytes">Its length in the text, in bytes.</param>
/// <param name="Hash">XXH128 of these bytes.</param>
/// <param name="Schema">What it is, as it is written.</param>
/// <param name="PlaysUrl">The pointer that it plays, where it is a clip that plays a file.</param>
/// <param name="Length">How long it lasts on its track, in seconds; null where nothing tells it.</param>
/// <param name="References">Its pointers; by number it is the first clip.</param>
internal sealed record KnownItem(int Bytes, UInt128 Hash, string Schema, string? PlaysUrl, Rational? Length, MediaReference[] References)
{
    /// <summary>True for a clip, which has a number in its document.</summary>
    public bool IsClip => ClipPlacer.IsSchema(Schema, "Clip");
}

/// <summary>
/// The items on the tracks of a document as it was read last. Somebody who saves changed a few of thousands: the others are found again
/// by their bytes, in the order in which they stood, and are not read again. Used for one reading.
/// </summary>
/// <param name="before">The items, in the order of the document.</param>
internal sealed class KnownItems(IReadOnlyList<KnownItem> before) : IKnownValues
{
    // So many items may have been taken out in one place before the rest is read as if it were new.
    private const int LooksAhead = 16;

    private int _next;

    /// <summary>The identity by which an item is found again.</summary>
    public static UInt128 HashOf(ReadOnlySpan<byte> item) => XxHash128.HashToUInt128(item);

    /// <inheritdoc/>
    public (int Bytes, object Known)? At(ReadOnlySpan<byte> rest)
    {
        var (ofBytes, hash) = (-1, default(UInt128));
        for (var n = _next; n < Math.Min(_next + LooksAhead, before.Count); n++)
        {
            var item = before[n];
            if (rest.Length < item.Bytes || rest[item.Bytes - 1] != '}')
            {
                continue;
            }
            if (ofBytes != item.Bytes)
            {
                // Mostly the next few are as long as each other.
                (ofBytes, hash) = (item.Bytes, HashOf(rest[..item.Bytes]));
            }
            if (hash == item.Hash)
            {
                _next = n + 1;
                return (item.Bytes, item);
            }
        }
        return null;
    }
}
