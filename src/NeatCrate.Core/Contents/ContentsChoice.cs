using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Contents;

/// <summary>A file that goes in the place of another one, or of a part of it.</summary>
/// <param name="Origin">Where its bytes come from.</param>
/// <param name="Bytes">Its size in bytes, as it is to be expected.</param>
public sealed record InsteadOf(FileOrigin Origin, long Bytes)
{
    /// <summary>Its name, where it goes as the whole file in another form: it keeps the marks of the file then. Null for that of the file.</summary>
    public string? Name { get; init; }
}

/// <summary>What of a session is to leave, and how. Each way out is one of these, and decides nothing else by itself.</summary>
public sealed record ContentsChoice
{
    /// <summary>Roles of which nothing goes along, unless a document points at it. What is drawn again, and what systems leave behind, never goes.</summary>
    public ImmutableHashSet<ContentRole> Stay { get; init; } = [];

    /// <summary>Which media of the folder stay all the same; null for none.</summary>
    public Predicate<InventoryFile>? InsideStays { get; init; }

    /// <summary>Whether media that stand outside go along.</summary>
    public bool Outside { get; init; }

    /// <summary>Which of these stay all the same; null for none.</summary>
    public Predicate<InventoryFile>? OutsideStays { get; init; }

    /// <summary>Folder below the session folder that takes these in; null for its audio folder.</summary>
    public string? OutsideFolder { get; init; }

    /// <summary>Whether names become such as all systems accept, composed (NFC), and each in its folder alike for none of them.</summary>
    public bool Portable { get; init; }

    /// <summary>Whether documents are re-pointed at what goes along, to be read from <see cref="ReadFrom"/>.</summary>
    public bool Repoints { get; init; }

    /// <summary>Absolute path of the folder that the contents are read from then; null for the folder that they stand in now.</summary>
    public string? ReadFrom { get; init; }

    /// <summary>Whether pointers that lead out of the folder lead to the same place from <see cref="ReadFrom"/>; false to leave them as they are written.</summary>
    public bool PointsOut { get; init; }

    /// <summary>Which documents go along; null for all.</summary>
    public Predicate<InventoryDocument>? Documents { get; init; }

    /// <summary>Files in whose place others go, by absolute path: trimmed to parts, or converted.</summary>
    public IReadOnlyDictionary<string, ImmutableArray<InsteadOf>> Instead { get; init; } = ImmutableDictionary<string, ImmutableArray<InsteadOf>>.Empty;

    /// <summary>What a reference to such a file says then, by the absolute paths of what goes in its place; null where there is none.</summary>
    public Func<MediaReference, string, IReadOnlyList<string>, NewPlace>? PlaceOf { get; init; }
}
