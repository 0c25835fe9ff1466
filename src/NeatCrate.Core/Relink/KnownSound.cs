using System.Globalization;
using System.Text.RegularExpressions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Relink;

/// <summary>The identities of a file, and what was noted with them; each null where it is not known.</summary>
/// <param name="Bytes">Of all bytes.</param>
/// <param name="Sound">Of format and audio data.</param>
/// <param name="Samples">Of the samples, however they are stored.</param>
/// <param name="IsSilent">True where every sample is the same: then its identities tell it from no other silence.</param>
/// <param name="Origin">Who made it, by what reference and when, as a Broadcast Wave file says (EBU Tech 3285).</param>
/// <param name="TimeReference">Its first sample since midnight, at its own rate (EBU Tech 3285).</param>
public sealed partial record NotedIdentities(UInt128? Bytes, SoundIdentity? Sound, SampleIdentity? Samples, bool IsSilent = false, string? Origin = null, long? TimeReference = null)
{
    /// <summary>Nothing is known.</summary>
    public static NotedIdentities None { get; } = new(null, null, null);

    /// <summary>
    /// When it was made, in local time of wherever that was, as its origin says (EBU Tech 3285: <c>yyyy-mm-dd</c>, <c>hh:mm:ss</c>, with any separators); null where it says none.
    /// </summary>
    public DateTime? MadeLocal => Origin?.Split('|') is [.., var date, var time] && Made().Match($"{date} {time}") is { Success: true } made
        && DateTime.TryParseExact($"{made.Groups[1]}-{made.Groups[2]}-{made.Groups[3]} {made.Groups[4]}:{made.Groups[5]}", "yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture, DateTimeStyles.None, out var at) ? at : null;

    [GeneratedRegex(@"^(\d{4})\D(\d{2})\D(\d{2}) (\d{2})\D(\d{2})")]
    private static partial Regex Made();

    /// <summary>True where one of them is known.</summary>
    public bool Any => Bytes is not null || Sound is not null || Samples is not null;

    /// <summary>Its identities, each with what it is of: <c>b</c>ytes, <c>s</c>ound, sam<c>p</c>les.</summary>
    public IEnumerable<(char Kind, UInt128 Hash)> Keys
    {
        get
        {
            if (Bytes is { } bytes)
            {
                yield return ('b', bytes);
            }
            if (Sound is { } sound)
            {
                yield return ('s', sound.Hash);
            }
            if (Samples is { } samples)
            {
                yield return ('p', samples.Hash);
            }
        }
    }
}

/// <summary>A file that a session needs and that is not where its documents say.</summary>
/// <param name="Path">Absolute path at which it should be; the pointer itself where that is no path on this machine.</param>
/// <param name="Known">What was known of it while it was there; null where it was never seen.</param>
/// <param name="Noted">Identities that were noted while it was there.</param>
/// <param name="Stated">Its length as the documents state it.</param>
/// <param name="NeededSeconds">How much of it clips need, in seconds from its start; null where that is not known.</param>
/// <param name="Session">Absolute path of the session's folder.</param>
public sealed record LostFile(string Path, KnownFile? Known, NotedIdentities Noted, StatedLength? Stated, double? NeededSeconds, string Session)
{
    /// <summary>The SHA-512 of its bytes, where a backup noted it while it was there.</summary>
    public ContentHash? Content { get; init; }

    /// <summary>The last save (UTC) of a document that uses it: what was recorded after that is another file. Null where nobody knows.</summary>
    public DateTime? SavedUtc { get; init; }

    /// <summary>Where it should be, as it is compared.</summary>
    public ComparedPath At { get; } = new(Path);

    /// <summary>Its name.</summary>
    public string Name => At.Name;

    /// <summary>The lost file that an inventory tells of.</summary>
    /// <param name="file">The file.</param>
    /// <param name="noted">Identities that were noted while it was there.</param>
    /// <param name="inventory">The inventory.</param>
    public static LostFile Of(InventoryFile file, NotedIdentities? noted, SessionInventory inventory)
    {
        ArgumentNullException.ThrowIfNull(file);
        ArgumentNullException.ThrowIfNull(inventory);
        // One that the current document does not use was used by an older one at the latest.
        var saves = inventory.Documents.Where(d => d.Current || file.Use == FileUse.OlderOnly).Select(d => (DateTime?)d.ModifiedUtc);
        return new LostFile(file.Path, file.Recalled, noted ?? NotedIdentities.None, file.Stated, file.NeededSeconds, inventory.Folder) { SavedUtc = saves.Max() };
    }
}

/// <summary>A file that may be one that is missed.</summary>
/// <param name="Path">Absolute path: on a shelf that is away, where it would be.</param>
/// <param name="Known">What is known of it.</param>
/// <param name="Noted">Identities that are known of it.</param>
/// <param name="IsThere">False on a shelf that is away.</param>
/// <param name="IsKept">True for a copy that is kept for safety: in a vault, an outbox, or set aside.</param>
/// <param name="ShelfId">The shelf that it is on; null for none.</param>
public sealed record FoundFile(string Path, KnownFile Known, NotedIdentities Noted, bool IsThere, bool IsKept, Guid? ShelfId)
{
    /// <summary>True where it stands in the folder of another session that is known: as likely as not that one's own take.</summary>
    public bool IsOfOtherSession { get; init; }

    /// <summary>For what is no file of its own: where its bytes are kept. Its path then says only what it is of.</summary>
    public KeptCopy? Copy { get; init; }

    /// <summary>Where it is, as it is compared.</summary>
    public ComparedPath At { get; } = new(Path);

    /// <summary>Its name.</summary>
    public string Name => At.Name;
}
