using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Purge;

/// <summary>Why a file counts as used, or what else must be known before it goes.</summary>
public enum UseReason
{
    /// <summary>Clips of the current document play it.</summary>
    Placed,

    /// <summary>Clips of older versions play it.</summary>
    OlderVersion,

    /// <summary>Kept saves of the documents play it.</summary>
    KeptSave,

    /// <summary>Another session points at it.</summary>
    OtherSession,

    /// <summary>A document points at it from data of another program, or lists an instrument that plays it.</summary>
    Named,

    /// <summary>It is a sample of an instrument in the folder.</summary>
    PlaysInInstrument,

    /// <summary>A document that nobody can read may use it.</summary>
    UseUnknown,

    /// <summary>The documents of other programs do not name it, and may use it all the same.</summary>
    NamedNowhere,

    /// <summary>Something writes it at this moment.</summary>
    BeingWritten,

    /// <summary>It is a render of a track whose instrument is not here: the only sound that there is of it.</summary>
    OnlySound,

    /// <summary>It stands on the session's list, and no clip plays it.</summary>
    Listed,

    /// <summary>It is in the folder and on no list: not in the session yet.</summary>
    NotInSession,

    /// <summary>Somebody marked it as the take to keep.</summary>
    Keeper,

    /// <summary>It is a render of a track whose instrument is here.</summary>
    Render,

    /// <summary>It is a finished mix.</summary>
    Bounce,

    /// <summary>Another file in the session holds the same sound.</summary>
    SameSound,

    /// <summary>It is set aside.</summary>
    SetAside,
}

/// <summary>One reason.</summary>
/// <param name="Why">Which.</param>
/// <param name="Protects">True where the file may not be set aside for it.</param>
/// <param name="Times">How often, where that can be counted.</param>
/// <param name="Names">The documents, sessions, tracks, instruments or files that it is about.</param>
public sealed record CountedReason(UseReason Why, bool Protects, int Times, ImmutableArray<string> Names);

/// <summary>The groups in which people think of what could go.</summary>
public enum PurgeGroup
{
    /// <summary>Takes that no clip plays.</summary>
    UnplacedTakes,

    /// <summary>Samples that were tried and left: on the list, played by no clip.</summary>
    TriedSamples,

    /// <summary>Files in the folder that are on no list.</summary>
    Strays,

    /// <summary>Files whose sound another file in the session holds too.</summary>
    SameSound,

    /// <summary>Renders of tracks whose instruments are here.</summary>
    Renders,

    /// <summary>Finished mixes.</summary>
    Bounces,

    /// <summary>Files that the documents of other programs name nowhere, where they name nearly all others: by hand, and one at a time.</summary>
    NamedNowhere,

    /// <summary>Waveform caches, which programs make again.</summary>
    Caches,

    /// <summary>What operating systems leave behind.</summary>
    Litter,

    /// <summary>Folders that hold nothing, other than those of the session's own layout.</summary>
    EmptyFolders,
}

/// <summary>A file of a session, or an empty folder, with what is to be said about letting it go.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="ModifiedUtc">Time of its last change.</param>
/// <param name="Reasons">Why it counts as used, or not.</param>
/// <param name="Group">The group in which it could go; null where it may not, or is set aside already.</param>
public sealed record PurgeItem(string Path, long Bytes, DateTime ModifiedUtc, ImmutableArray<CountedReason> Reasons, PurgeGroup? Group)
{
    /// <summary>What the inventory says of it; null for what is no media.</summary>
    public InventoryFile? File { get; init; }

    /// <summary>Which take it is, where it is one.</summary>
    public TakeLabel? Take { get; init; }

    /// <summary>For a take that nobody placed: name of the one on its track that is placed or kept, of its own pass where there is one.</summary>
    public string? KeptBeside { get; init; }

    /// <summary>Absolute path of the file that holds the same sound and stays.</summary>
    public string? SameAs { get; init; }

    /// <summary>True for an empty folder.</summary>
    public bool IsFolder => Group == PurgeGroup.EmptyFolders;

    /// <summary>True for one that goes only where somebody names it, never with its group: keepers, renders, and what is named nowhere.</summary>
    public bool IsOnlyByName => Group == PurgeGroup.NamedNowhere || Reasons.Any(r => r.Why is UseReason.Keeper or UseReason.Render);

    /// <summary>Its identity within its session: it follows from the path.</summary>
    public string Id => InventoryFile.IdOf(Path);
}
