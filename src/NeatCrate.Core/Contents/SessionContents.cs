using System.Collections.Immutable;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Contents;

/// <summary>What a file is to its session.</summary>
public enum ContentRole
{
    /// <summary>A session document, the current one or an older version.</summary>
    Document,

    /// <summary>A media file.</summary>
    Media,

    /// <summary>Audio that was printed of a track.</summary>
    Render,

    /// <summary>A finished mix.</summary>
    Bounce,

    /// <summary>A kept state of a document.</summary>
    KeptSave,

    /// <summary>Held in the holding place, or the list of what is.</summary>
    SetAside,

    /// <summary>One of our own small files.</summary>
    Own,

    /// <summary>What is drawn again by itself.</summary>
    Cache,

    /// <summary>What systems leave behind.</summary>
    Litter,

    /// <summary>Whatever else people keep in the folder.</summary>
    Other,
}

/// <summary>Why something that belongs to a session, or stands in its folder, is not among its contents.</summary>
public enum WhyLeftOut
{
    /// <summary>By choice: it is of a role that stays.</summary>
    ByChoice,

    /// <summary>No shelf has it at its path.</summary>
    Missing,

    /// <summary>Its shelf is not connected.</summary>
    Away,

    /// <summary>A folder that is a link: it is not gone into.</summary>
    LinkedFolder,

    /// <summary>A link that leads to nothing.</summary>
    LinkToNothing,

    /// <summary>A pipe, a socket or a device.</summary>
    NotAFile,

    /// <summary>Its name is no valid text, so that it cannot be opened by it.</summary>
    NameNotText,

    /// <summary>It cannot be opened or read.</summary>
    CannotBeRead,
}

/// <summary>A file among the contents of a session.</summary>
/// <param name="Path">Its path from the session folder, as it is named there, with forward slashes.</param>
/// <param name="Role">What it is to the session.</param>
/// <param name="Origin">Where its bytes come from.</param>
/// <param name="Bytes">Its size in bytes; of a transformed one the size that is to be expected.</param>
/// <param name="Marks">What it has beside its bytes.</param>
public sealed record ContentEntry(string Path, ContentRole Role, FileOrigin Origin, long Bytes, KeptMarks Marks)
{
    /// <summary>Absolute path that it has in the session that leaves; null for one that comes.</summary>
    public string? Here { get; init; }

    /// <summary>For what stood outside of the session: the absolute path that it had.</summary>
    public string? Outside { get; init; }

    /// <summary>What it holds, where that is known.</summary>
    public ContentHash? Sha512 { get; init; }
}

/// <summary>Something that is not in, with the reason.</summary>
/// <param name="Path">Its path from the session folder; the absolute one for what stands outside.</param>
/// <param name="Role">What it is to the session.</param>
/// <param name="Why">Why it is not in.</param>
/// <param name="Bytes">Its size in bytes; 0 where it is not known.</param>
public sealed record LeftOutContent(string Path, ContentRole Role, WhyLeftOut Why, long Bytes = 0)
{
    /// <summary>Absolute path that it has, or should have.</summary>
    public string? Here { get; init; }

    /// <summary>For what stands outside: the path that it would have among the contents.</summary>
    public string? Place { get; init; }

    /// <summary>True where only older versions of the document need it.</summary>
    public bool IsOlderOnly { get; init; }
}

/// <summary>A folder among the contents of a session.</summary>
/// <param name="Path">Its path from the session folder; empty for that itself.</param>
/// <param name="Mode">Its permission bits; null where they are not known.</param>
/// <param name="Time">Its time, in nanoseconds since 1970; null where it is not known.</param>
/// <param name="IsEmpty">True where nothing stands in it, so that it is there for its own sake.</param>
public sealed record ContentFolder(string Path, int? Mode, long? Time, bool IsEmpty);

/// <summary>Where a pointer of a document led when the contents were taken.</summary>
/// <param name="Url">The pointer as it is written.</param>
/// <param name="Path">The absolute path that it meant.</param>
public sealed record ResolvedPointer(string Url, string Path);

/// <summary>
/// The pointers of a document that would not lead to the same thing by themselves from another place: those that are absolute, that
/// lead out of the session folder, or that lead to what stands behind a link.
/// </summary>
/// <param name="Document">Path of the document from the session folder.</param>
/// <param name="Pointers">The pointers, each once.</param>
public sealed record DocumentPointers(string Document, ImmutableArray<ResolvedPointer> Pointers);

/// <summary>
/// What a session is when it leaves, or comes back: everything that goes along with its origin, everything that does not with its
/// reason, and where its documents' pointers led. The one model for backups, bundles and copies, and for what is read out of them.
/// </summary>
public sealed record SessionContents
{
    /// <summary>Name of the session folder.</summary>
    public required string Folder { get; init; }

    /// <summary>Absolute path that the session folder had; null where nobody wrote it down.</summary>
    public string? Stood { get; init; }

    /// <summary>Path of the current document; null where there is none.</summary>
    public string? Document { get; init; }

    /// <summary>The files, by path.</summary>
    public required ImmutableArray<ContentEntry> Entries { get; init; }

    /// <summary>Paths, among the contents, of sample instruments that could not be pointed at their samples there.</summary>
    public ImmutableArray<string> MayBeSilent { get; init; } = [];

    /// <summary>The folders, by path: the session folder itself first.</summary>
    public ImmutableArray<ContentFolder> Folders { get; init; } = [];

    /// <summary>What is not in.</summary>
    public ImmutableArray<LeftOutContent> LeftOut { get; init; } = [];

    /// <summary>Where the pointers of documents led that would not lead there by themselves; null where nobody wrote that down.</summary>
    public ImmutableArray<DocumentPointers>? Pointers { get; init; }

    /// <summary>Paths of the folders that are there for their own sake.</summary>
    public IEnumerable<string> EmptyFolders => Folders.Where(f => f.IsEmpty).Select(f => f.Path);

    /// <summary>What belongs to the session and could not go in, as against what stays by choice.</summary>
    public IEnumerable<LeftOutContent> CouldNotGo => LeftOut.Where(l => l.Why != WhyLeftOut.ByChoice);
}
