using NeatCrate.Core.Media;

namespace NeatCrate.Store;

/// <summary>By what found files are ordered.</summary>
public enum CatalogueOrder
{
    /// <summary>By name.</summary>
    Name,

    /// <summary>By name of the shelf.</summary>
    Shelf,

    /// <summary>By path of the folder.</summary>
    Folder,

    /// <summary>By sample rate, then by depth, then by number of channels.</summary>
    Format,

    /// <summary>By size in bytes.</summary>
    Bytes,

    /// <summary>By length in seconds.</summary>
    Length,

    /// <summary>By time of the last change.</summary>
    Changed,
}

/// <summary>What is looked for in the catalogue. What is null or empty does not matter.</summary>
public sealed record CatalogueQuery
{
    /// <summary>Words, each of which must stand in the path, in the texts that the file carries or in the name of its shelf; case does not matter.</summary>
    public string? Text { get; init; }

    /// <summary>The shelf.</summary>
    public Guid? ShelfId { get; init; }

    /// <summary>Shelves that are left out.</summary>
    public IReadOnlyCollection<Guid> ExceptShelves { get; init; } = [];

    /// <summary>Folders that are left out with all that is in them: their shelves, and their paths on them; empty for all of the shelf.</summary>
    public IReadOnlyCollection<(Guid ShelfId, string Path)> ExceptFolders { get; init; } = [];

    /// <summary>The kind of media; null for every kind of media, and no other files.</summary>
    public MediaKind? Kind { get; init; }

    /// <summary>Name of the format, as <see cref="MediaHeader.Container"/> has it.</summary>
    public string? Container { get; init; }

    /// <summary>Sample rate in Hz.</summary>
    public int? SampleRate { get; init; }

    /// <summary>Least length in seconds.</summary>
    public double? MinSeconds { get; init; }

    /// <summary>Greatest length in seconds.</summary>
    public double? MaxSeconds { get; init; }

    /// <summary>By what they are ordered; where that is equal, by name.</summary>
    public CatalogueOrder Order { get; init; }

    /// <summary>True for the greatest first.</summary>
    public bool Descending { get; init; }

    /// <summary>How many of the found files are passed over.</summary>
    public int Skip { get; init; }

    /// <summary>How many are given at most.</summary>
    public int Take { get; init; } = 200;
}

/// <summary>A file in the catalogue.</summary>
/// <param name="Id">Identity in the catalogue.</param>
/// <param name="ShelfId">The shelf.</param>
/// <param name="Path">Path from the shelf's top folder.</param>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Kind">What kind of media it is; null for other files.</param>
/// <param name="Container">Name of the format.</param>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="Channels">Number of channels.</param>
/// <param name="BitsPerSample">Meaningful bits per sample.</param>
/// <param name="LengthSamples">Length in samples per channel.</param>
/// <param name="Seconds">Length in seconds.</param>
/// <param name="Problem">Why it cannot be read: a fault as <see cref="Fault.Write"/> has it, or a sentence of an earlier version.</param>
public sealed record CatalogueFile(
    long Id, Guid ShelfId, string Path, long Bytes, DateTime ModifiedUtc, MediaKind? Kind, string? Container, int? SampleRate, int? Channels,
    int? BitsPerSample, long? LengthSamples, double? Seconds, string? Problem);

/// <summary>What was found: how many in all, and the files that were asked for.</summary>
public sealed record CatalogueAnswer(int Total, IReadOnlyList<CatalogueFile> Files);

/// <summary>Formats and sample rates that occur in the catalogue.</summary>
public sealed record CatalogueFacets(IReadOnlyList<string> Containers, IReadOnlyList<int> SampleRates);

/// <summary>Something on a shelf that cannot be read.</summary>
/// <param name="Path">Path from the shelf's top folder.</param>
/// <param name="IsFolder">True for a folder.</param>
/// <param name="Reason">Why: a fault as <see cref="Fault.Write"/> has it, or a sentence of an earlier version.</param>
public sealed record CatalogueProblem(string Path, bool IsFolder, string Reason);
