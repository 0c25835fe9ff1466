using System.Collections.Immutable;
using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Purge;

/// <summary>Files inside a session that hold the same sound.</summary>
/// <param name="Kept">Absolute path of the one that stays.</param>
/// <param name="Others">Absolute paths of those that can go.</param>
public sealed record SameSound(string Kept, ImmutableArray<string> Others);

/// <summary>Finds files inside a session that hold the same sound: the same format and the same audio data, whatever texts stand around it.</summary>
public static class SameSounds
{
    /// <summary>
    /// The files that may hold the same sound, by what their headers say: as much data, in the same format, from the same time.
    /// Two whose time references differ are not the same recording to a program that places by them.
    /// </summary>
    public static IReadOnlyList<IReadOnlyList<InventoryFile>> Alike(SessionInventory inventory)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        return
        [
            .. inventory.Standing(Standing.Inside)
                .Where(f => f is { Use: not FileUse.SetAside, Header: { DataBytes: > 0, Unfinished: false } })
                .GroupBy(f => (f.Header!.DataBytes, f.Header.Encoding, f.Header.BigEndian, f.Header.SampleRate, f.Header.Channels, f.Header.BitsPerSample, f.Header.Broadcast?.TimeReference ?? 0))
                .Where(g => g.Skip(1).Any()).Select(g => g.ToList()),
        ];
    }

    /// <summary>Finds them. Files that may be the same are read, unless a look at their middle tells them apart.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="identities">Tells which files are the same.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static IReadOnlyList<SameSound> Find(SessionInventory inventory, IIdentities identities, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(identities);
        var found = new List<SameSound>();
        foreach (var alike in Alike(inventory))
        {
            var middles = alike.GroupBy(f => ByteProbe.At(f.Path, f.Header!.DataOffset + (f.Header.DataBytes / 2))).Where(g => g.Key is not null && g.Skip(1).Any());
            var sounds = middles.SelectMany(g => g).Select(f => (File: f, Identity: SoundOf(f, identities, cancel)))
                .Where(f => f.Identity is not null).GroupBy(f => f.Identity!.Value, f => f.File);
            found.AddRange(sounds.Select(g => g.ToList()).Where(g => g.Count > 1).Select(Of));
        }
        return found;
    }

    /// <summary>Which of them stays: the one that is placed most, then one that is kept, then one that documents know, then the oldest.</summary>
    private static SameSound Of(List<InventoryFile> files)
    {
        var kept = files.OrderByDescending(f => f.PlacedTimes).ThenByDescending(f => f.ListedTake is { IsKeeper: true }).ThenBy(f => f.Use switch
        {
            FileUse.Placed => 0,
            FileUse.OlderOnly => 1,
            FileUse.Listed => 2,
            _ => 3,
        }).ThenBy(f => f.ModifiedUtc).ThenBy(f => f.Path, StringComparer.Ordinal).First();
        return new SameSound(kept.Path, [.. files.Where(f => f != kept).Select(f => f.Path)]);
    }

    /// <summary>Silence is like all silence of its length: it is no copy of anything.</summary>
    private static SoundIdentity? SoundOf(InventoryFile file, IIdentities identities, CancellationToken cancel)
    {
        try
        {
            return identities.Identify(file.Path, file.Header, null, cancel) is { IsSilent: false } identity ? identity.Sound : null;
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            // What cannot be read is the same as nothing, and says so where it is shown.
            return null;
        }
    }
}
