namespace NeatCrate.Core.Vault;

/// <summary>Something that was to go into a backup and is not in it, as its manifest tells of it (docs/formats.md, "Vault").</summary>
/// <param name="Path">Its path from the session folder.</param>
/// <param name="Why">Why: one of the words below.</param>
public sealed record BackupLeftOut(string Path, string Why)
{
    /// <summary>No shelf has it at its path.</summary>
    public const string Missing = "missing";

    /// <summary>Its drive is away.</summary>
    public const string Away = "away";

    /// <summary>A folder that is a link.</summary>
    public const string LinkedFolder = "linked folder";

    /// <summary>A link that leads to nothing.</summary>
    public const string LinkToNothing = "link to nothing";

    /// <summary>A pipe, a socket or a device.</summary>
    public const string NotAFile = "no file";

    /// <summary>Its name is no valid text.</summary>
    public const string NameNotText = "name";

    /// <summary>It could not be read, or did not stay as it was while it was read.</summary>
    public const string Unreadable = "unreadable";

    /// <summary>What the last backup held of it: it is in after all, where that content is still there.</summary>
    public BackupEntry? TakenOver { get; init; }
}
