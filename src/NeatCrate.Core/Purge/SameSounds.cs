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

    /// <summary>Those that are known to hold the same sound.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="soundOf">The identity of a file's sound; null where it is not known, and for silence, which is like all silence of its length.</param>
    public static IReadOnlyList<SameSound> Known(SessionInventory inventory, Func<InventoryFile, SoundIdentity?> soundOf)
    {
        ArgumentNullException.ThrowIfNull(soundOf);
        return
        [
            .. Alike(inventory).SelectMany(alike => alike.Select(f => (File: f, Sound: soundOf(f))).Where(f => f.Sound is not null)
                .GroupBy(f => f.Sound!.Value, f => f.File).Select(g => g.ToList()).Where(g => g.Count > 1).Select(Of)),
        ];
    }

    /// <summary>Finds them by reading the files that may be the same, unless a look at their middle tells them apart.</summary>
    /// <param name="inventory">The session's inventory.</param>
    /// <param name="identities">Tells which files are the same, and remembers it.</param>
    /// <param name="toldApart">Told of each file that needs no reading, since no other is like it in its middle.</param>
    /// <param name="cancel">Stops the reading.</param>
    public static IReadOnlyList<SameSound> Find(SessionInventory inventory, IIdentities identities, Action<InventoryFile>? toldApart, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(identities);
        var sounds = new Dictionary<InventoryFile, SoundIdentity?>(ReferenceEqualityComparer.Instance);
        foreach (var alike in Alike(inventory))
        {
            foreach (var middle in alike.GroupBy(f => ByteProbe.At(f.Path, f.Header!.DataOffset + (f.Header.DataBytes / 2))))
            {
                cancel.ThrowIfCancellationRequested();
                if (middle.Key is null || !middle.Skip(1).Any())
                {
                    middle.ToList().ForEach(f => toldApart?.Invoke(f));
                    continue;
                }
                foreach (var file in middle)
                {
                    sounds[file] = SoundOf(file, identities, cancel);
                }
            }
        }
        return Known(inventory, sounds.GetValueOrDefault);
    }

    /// <summary>Which of them stays: the one that is placed most, then one that is kept, then one that documents know, then the oldest.</summary>
    private static SameSound Of(List<InventoryFile> files)
    {
        var kept = files.OrderByDescending(f => f.PlacedTimes).ThenByDescending(f => f.ListedTake is { IsKeeper: true }).ThenBy(f => f.Use switch
        {
            FileUse.Placed or FileUse.Named => 0,
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
