using System.Collections.Immutable;
using System.Text.Json.Serialization;

namespace NeatCrate.Core.Bundles;

/// <summary>One file of a bundle's payload.</summary>
/// <param name="PayloadPath">Path below the bag's <c>data</c> folder, with forward slashes.</param>
/// <param name="Origin">Where its bytes come from.</param>
/// <param name="Bytes">Size in bytes; of a transformed one the size that is to be expected.</param>
/// <param name="Marks">What it has beside its bytes.</param>
public sealed record BundleEntry(string PayloadPath, FileOrigin Origin, long Bytes, KeptMarks Marks);

/// <summary>Everything that is packed into a bundle.</summary>
/// <param name="BagName">Name of the bag's own folder.</param>
/// <param name="Entries">The payload.</param>
/// <param name="EmptyFolders">Folders of the payload that hold no file, below <c>data</c>.</param>
/// <param name="Info">The bag's metadata, in order, without the sums that follow from the payload.</param>
/// <param name="SlipText">The packing slip to be read by people.</param>
/// <param name="SlipJson">The packing slip to be read by programs.</param>
/// <param name="PackedAt">When it is packed, in local time.</param>
public sealed record BundleContents(
    string BagName,
    ImmutableArray<BundleEntry> Entries,
    ImmutableArray<string> EmptyFolders,
    ImmutableArray<KeyValuePair<string, string>> Info,
    byte[] SlipText,
    byte[] SlipJson,
    DateTimeOffset PackedAt)
{
    /// <summary>The packing slip as a page; null in plans of before there was one.</summary>
    public byte[]? SlipHtml { get; init; }

    // A local header, a central one, and a manifest line: about this much per file, names not counted.
    private const long BytesPerEntry = 512;

    /// <summary>Bytes that the bundle takes at the most: audio is stored as it is.</summary>
    [JsonIgnore]
    public long Bytes => Entries.Sum(e => e.Bytes + BytesPerEntry + (4 * e.PayloadPath.Length)) + SlipText.Length + SlipJson.Length + (SlipHtml?.Length ?? 0) + 16_384;
}
