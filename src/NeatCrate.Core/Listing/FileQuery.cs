using System.Collections.Immutable;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Listing;

/// <summary>Which files of a session a list is of.</summary>
public enum FileSubset
{
    /// <summary>All.</summary>
    All,

    /// <summary>Takes.</summary>
    Takes,
}

/// <summary>What a list of files is sorted by.</summary>
public enum FileOrder
{
    /// <summary>Where they stand, what needs somebody first.</summary>
    Standing,

    /// <summary>Their names.</summary>
    Name,

    /// <summary>The share of their sound that is in use.</summary>
    InUse,

    /// <summary>The shelf that they stand on.</summary>
    StandsOn,

    /// <summary>What the session does with them.</summary>
    Use,

    /// <summary>Their length in time.</summary>
    Length,

    /// <summary>Sample rate, bits and channels.</summary>
    Format,

    /// <summary>Their size.</summary>
    Bytes,

    /// <summary>Their track, and the number on it.</summary>
    Track,

    /// <summary>Their number on the track.</summary>
    Take,

    /// <summary>The pass of the song.</summary>
    Pass,

    /// <summary>Where they belong on the timeline.</summary>
    Start,

    /// <summary>When they were recorded, or changed last.</summary>
    Changed,
}

/// <summary>What a list of files is grouped by.</summary>
public enum FileGrouping
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>Where they stand, what needs somebody first.</summary>
    Standing,

    /// <summary>The shelf that they stand on.</summary>
    StandsOn,

    /// <summary>Their track.</summary>
    Track,

    /// <summary>The pass of the song, the last one first.</summary>
    Pass,
}

/// <summary>Files that stand alike and are used alike.</summary>
public readonly record struct FileSegment(Standing Standing, FileUse Use);

/// <summary>Which files of a session a list shows, and in what order.</summary>
public sealed record FileQuery
{
    /// <summary>Which files it is of.</summary>
    public FileSubset Of { get; init; }

    /// <summary>Words that all occur in a file's path, tracks or shelf; case and the form of composed letters do not matter.</summary>
    public string Text { get; init; } = "";

    /// <summary>Only files of one of these; of any where none is named.</summary>
    public ImmutableArray<FileSegment> Segments { get; init; } = [];

    /// <summary>Only files that come from this place.</summary>
    public string? Place { get; init; }

    /// <summary>What they are sorted by; files that are alike by that follow each other by their paths.</summary>
    public FileOrder Order { get; init; }

    /// <summary>True for the last first.</summary>
    public bool Descending { get; init; }

    /// <summary>What they are grouped by; within a group they are sorted.</summary>
    public FileGrouping Grouping { get; init; }

    /// <summary>The same for queries that ask for the same.</summary>
    internal string Key => string.Join('\n', Of, string.Join(',', Segments), Place, Order, Descending, Grouping, Text);

    /// <summary>What tells whether a file is in the list.</summary>
    internal Predicate<ListedFile> Filter()
    {
        var words = PortableName.ClashKey(Text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        return file => (Of != FileSubset.Takes || file.Take is not null)
            && (Segments.IsEmpty || Segments.Contains(new FileSegment(file.File.Standing, file.File.Use)))
            && (Place is null || file.Origin?.Place == Place)
            && (words.Length == 0 || Holds(file, words));
    }

    private static bool Holds(ListedFile file, string[] words)
    {
        var text = PortableName.ClashKey($"{file.File.ShownPath}\n{string.Join('\n', file.File.Tracks)}\n{file.Take?.Track}\n{file.StandsOn}");
        return words.All(w => text.Contains(w, StringComparison.Ordinal));
    }
}
