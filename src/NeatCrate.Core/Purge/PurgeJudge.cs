using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Purge;

/// <summary>Which documents count beside the current one.</summary>
/// <param name="OlderVersions">Older versions in the session folder.</param>
/// <param name="OtherSessions">Other known sessions.</param>
/// <param name="KeptSaves">Kept saves of the documents.</param>
public sealed record PurgeCounting(bool OlderVersions = true, bool OtherSessions = true, bool KeptSaves = true);

/// <summary>All that a judgement is made of.</summary>
/// <param name="Inventory">The session's inventory.</param>
/// <param name="Uses">How its documents use its files, by absolute path.</param>
/// <param name="Others">Where other sessions use files in its folder, by absolute path.</param>
/// <param name="Takes">Which files are takes, by absolute path.</param>
/// <param name="Entries">What else stands in its folder.</param>
public sealed record PurgeWorld(
    SessionInventory Inventory,
    IReadOnlyDictionary<string, IReadOnlyList<DocumentUse>> Uses,
    ILookup<string, UsePlace> Others,
    IReadOnlyDictionary<string, TakeLabel> Takes,
    OtherEntries Entries)
{
    /// <summary>Paths of files that something writes at this moment.</summary>
    public IReadOnlySet<string> Growing { get; init; } = ImmutableHashSet<string>.Empty;

    /// <summary>Files inside that hold the same sound, as far as that is known.</summary>
    public IReadOnlyList<SameSound> Same { get; init; } = [];

    /// <summary>Which kept saves play files, by absolute path: when each was saved, the newest first.</summary>
    public ILookup<string, DateTime> KeptSaves { get; init; } = Array.Empty<(string, DateTime)>().ToLookup(s => s.Item1, s => s.Item2);

    /// <summary>What counts.</summary>
    public PurgeCounting Counting { get; init; } = new();
}

/// <summary>
/// Says of each file in a session why it counts as used or not, and in which group it could go. Nothing is called unused
/// because one document does not name it (common practice: whoever purges looks three times).
/// </summary>
public static class PurgeJudge
{
    // What people and programs write into the name of a track that was printed (common practice).
    private static readonly string[] RenderWords = ["render", "rendered", "print", "printed", "frozen", "freeze", "bounced", "consolidated"];

    /// <summary>Judges everything in the session folder: media in the order of the inventory, then what else stands in it.</summary>
    public static IReadOnlyList<PurgeItem> Judge(PurgeWorld world)
    {
        ArgumentNullException.ThrowIfNull(world);
        return [.. new Judging(world).All()];
    }

    private sealed class Judging(PurgeWorld world)
    {
        private readonly SessionInventory _inventory = world.Inventory;
        private readonly Dictionary<string, SameSound> _same = world.Same.SelectMany(s => s.Others.Select(o => (o, s))).ToDictionary(p => p.o, p => p.s, StringComparer.Ordinal);
        private readonly ILookup<string, Kept> _kept = KeptTakes(world).ToLookup(k => k.Label.Track!, StringComparer.OrdinalIgnoreCase);
        private readonly Lazy<HashSet<string>> _instruments = new(() => TracksWith(world.Inventory, f => f.Standing is Standing.Inside or Standing.Outside));
        private readonly Lazy<bool> _isByHand = new(() => NearlyAllAreNamed(world.Inventory));
        private readonly Lazy<HashSet<string>> _played = new(() => TracksWith(world.Inventory, _ => true));

        /// <summary>
        /// True where the documents of other programs name at least 95 of a hundred of the media files beside one: what is open does not
        /// count. Then what they do not name is likely to be played by nothing, and never surely.
        /// </summary>
        private static bool NearlyAllAreNamed(SessionInventory inventory)
        {
            var media = inventory.Standing(Standing.Inside).Where(f => f.Use != FileUse.SetAside && MediaFiles.KindOf(f.Path) is not null).ToList();
            var named = media.Count(f => f.Use is FileUse.Named or FileUse.Placed or FileUse.Listed or FileUse.OlderOnly);
            return named > 0 && named * 100L >= (media.Count - 1) * 95L;
        }

        public IEnumerable<PurgeItem> All() => _inventory.Standing(Standing.Inside).Select(Media).Concat(Others());

        private PurgeItem Media(InventoryFile file)
        {
            var take = world.Takes.GetValueOrDefault(file.Path);
            var same = _same.GetValueOrDefault(file.Path);
            var reasons = Reasons(file, take, same).ToImmutableArray();
            var group = GroupOf(file, take, same, reasons);
            return new PurgeItem(file.Path, file.Bytes, file.ModifiedUtc ?? default, reasons, group)
            {
                File = file,
                Take = take,
                KeptBeside = group == PurgeGroup.UnplacedTakes ? KeptBeside(file, take) : null,
                SameAs = same?.Kept,
            };
        }

        private IEnumerable<CountedReason> Reasons(InventoryFile file, TakeLabel? take, SameSound? same)
        {
            if (file.Use == FileUse.SetAside)
            {
                yield return new CountedReason(UseReason.SetAside, true, 1, []);
                yield break;
            }
            var uses = world.Uses.GetValueOrDefault(file.Path) ?? [];
            foreach (var current in uses.Where(u => u is { IsCurrent: true, Placed: > 0 }))
            {
                yield return new CountedReason(UseReason.Placed, true, current.Placed, file.Tracks);
            }
            if (Named(uses.Where(u => u is { IsCurrent: false, Placed: > 0 })) is { Length: > 0 } older)
            {
                yield return new CountedReason(UseReason.OlderVersion, world.Counting.OlderVersions, older.Length, older);
            }
            if (KeptSavesMissing.Saves(world, file.Path) is { Length: > 0 } saves)
            {
                yield return new CountedReason(UseReason.KeptSave, world.Counting.KeptSaves, saves.Length, saves);
            }
            if (world.Others[file.Path].Select(o => Path.GetFileName(o.SessionFolder)).Distinct(StringComparer.Ordinal).ToImmutableArray() is { Length: > 0 } others)
            {
                yield return new CountedReason(UseReason.OtherSession, world.Counting.OtherSessions, others.Length, others);
            }
            if (Named(uses.Where(u => u.IsNamed && (u.IsCurrent || world.Counting.OlderVersions))) is { Length: > 0 } named)
            {
                yield return new CountedReason(UseReason.Named, true, named.Length, named);
            }
            if (file.Remarks.FirstOrDefault(r => r.Code == FaultCode.SampleOfInstrument) is { } sample)
            {
                yield return new CountedReason(UseReason.PlaysInInstrument, true, sample.Names.Length, sample.Names);
            }
            if (world.Growing.Contains(file.Path))
            {
                yield return new CountedReason(UseReason.BeingWritten, true, 1, []);
            }
            if (file.Use == FileUse.NamedNowhere)
            {
                yield return new CountedReason(UseReason.NamedNowhere, !_isByHand.Value, _inventory.NamingNow.Length, _inventory.NamingNow);
            }
            else if (_inventory.IsUseUnknown(file.Path))
            {
                yield return new CountedReason(UseReason.UseUnknown, true, _inventory.UnknownFor.Length, _inventory.UnknownFor);
            }
            foreach (var reason in Marks(file, take, uses, same))
            {
                yield return reason;
            }
        }

        /// <summary>What must be known of it, whether it is used or not.</summary>
        private IEnumerable<CountedReason> Marks(InventoryFile file, TakeLabel? take, IReadOnlyList<DocumentUse> uses, SameSound? same)
        {
            if (Named(uses.Where(u => u is { Placed: 0, Listed: > 0 })) is { Length: > 0 } listed)
            {
                yield return new CountedReason(UseReason.Listed, false, listed.Length, listed);
            }
            if (take is { IsKeeper: true })
            {
                yield return new CountedReason(UseReason.Keeper, false, 1, []);
            }
            if (RenderedTrack(file) is { } track && _played.Value.Contains(track))
            {
                var isOnly = !_instruments.Value.Contains(track);
                yield return new CountedReason(isOnly ? UseReason.OnlySound : UseReason.Render, isOnly, 1, [track]);
            }
            if (file.Use == FileUse.Bounce)
            {
                yield return new CountedReason(UseReason.Bounce, false, 1, []);
            }
            else if (uses.Count == 0 && file.Use != FileUse.NamedNowhere)
            {
                yield return new CountedReason(UseReason.NotInSession, false, 1, []);
            }
            if (same is not null)
            {
                yield return new CountedReason(UseReason.SameSound, false, 1, [Path.GetRelativePath(_inventory.Folder, same.Kept)]);
            }
        }

        private static PurgeGroup? GroupOf(InventoryFile file, TakeLabel? take, SameSound? same, ImmutableArray<CountedReason> reasons)
        {
            var protecting = reasons.Where(r => r.Protects).Select(r => r.Why).ToHashSet();
            if (file.Use == FileUse.NamedNowhere)
            {
                return protecting.Count > 0 ? null : PurgeGroup.NamedNowhere;
            }
            if (same is not null && protecting.IsSubsetOf(Replaceable))
            {
                return PurgeGroup.SameSound;
            }
            return protecting.Count > 0 ? null
                : reasons.Any(r => r.Why == UseReason.Render) ? PurgeGroup.Renders
                : file.Use == FileUse.Bounce ? PurgeGroup.Bounces
                : take is not null ? PurgeGroup.UnplacedTakes
                : reasons.Any(r => r.Why == UseReason.Listed) ? PurgeGroup.TriedSamples
                : PurgeGroup.Strays;
        }

        /// <summary>The name of the take on its track that is placed, or else kept: of its own pass where there is one.</summary>
        private string? KeptBeside(InventoryFile file, TakeLabel? take) => take is not { Track: { } track } ? null
            : _kept[track].Where(o => o.Path != file.Path).OrderByDescending(o => o.Label.Pass is not null && o.Label.Pass == take.Pass).ThenByDescending(o => o.IsPlaced)
                .ThenBy(o => Math.Abs((o.Label.Number ?? 0) - (take.Number ?? 0))).ThenBy(o => o.Path, StringComparer.Ordinal).Select(o => Path.GetFileName(o.Path)).FirstOrDefault();

        private sealed record Kept(string Path, TakeLabel Label, bool IsPlaced);

        private static IEnumerable<Kept> KeptTakes(PurgeWorld world)
        {
            var placed = world.Inventory.Files.Where(f => f.PlacedTimes > 0).Select(f => f.Path).ToHashSet(StringComparer.Ordinal);
            return world.Takes.Where(t => t.Value.Track is not null && (t.Value.IsKeeper || placed.Contains(t.Key))).Select(t => new Kept(t.Key, t.Value, placed.Contains(t.Key)));
        }

        /// <summary>The track of which a file is a render: by the document's word, else by its name; null for none.</summary>
        private string? RenderedTrack(InventoryFile file)
        {
            if (file.RenderOf is { } said)
            {
                return said;
            }
            var words = Words(Path.GetFileNameWithoutExtension(file.Name));
            return words.Exists(w => RenderWords.Contains(w, StringComparer.OrdinalIgnoreCase))
                ? _played.Value.Where(t => Words(t) is { Count: > 0 } of && Holds(words, of)).MaxBy(t => t.Length)
                : null;
        }

        private IEnumerable<PurgeItem> Others()
        {
            var holding = HoldingPlace.FolderIn(_inventory.Folder);
            var cache = Path.Combine(_inventory.Folder, _inventory.Layout.WaveformCache);
            foreach (var entry in world.Entries.Files.Where(f => !f.IsLink && !ShelfPath.IsWithin(f.Path, holding)).OrderBy(f => f.Path, StringComparer.Ordinal))
            {
                PurgeGroup? group = ShelfPath.IsWithin(entry.Path, cache) ? PurgeGroup.Caches : Litter.IsFile(entry.Name) ? PurgeGroup.Litter : null;
                if (group is not null)
                {
                    yield return new PurgeItem(entry.Path, entry.Facts.Bytes, entry.Facts.ModifiedUtc, [], group);
                }
            }
            var own = _inventory.Layout.All.Select(f => Path.Combine(_inventory.Folder, f)).ToHashSet(StringComparer.Ordinal);
            foreach (var folder in world.Entries.EmptyFolders.Where(f => !own.Contains(f) && !ShelfPath.IsWithin(f, holding)))
            {
                yield return new PurgeItem(folder, 0, FileFacts.Of(folder)?.ModifiedUtc ?? default, [], PurgeGroup.EmptyFolders);
            }
        }

        // Clips that play a file can play another one with the same sound instead.
        private static readonly HashSet<UseReason> Replaceable = [UseReason.Placed, UseReason.OlderVersion];

        private static ImmutableArray<string> Named(IEnumerable<DocumentUse> uses) => [.. uses.Select(u => Path.GetFileNameWithoutExtension(u.Document))];

        private static HashSet<string> TracksWith(SessionInventory inventory, Func<InventoryFile, bool> isThere) =>
            inventory.Files.Where(f => MediaFiles.KindOf(f.Path) is MediaKind.Midi or MediaKind.Instrument && isThere(f)).SelectMany(f => f.Tracks).ToHashSet(StringComparer.OrdinalIgnoreCase);

        private static List<string> Words(string name) => [.. name.Split([' ', '_', '-', '.', '(', ')', '[', ']'], StringSplitOptions.RemoveEmptyEntries)];

        private static bool Holds(List<string> words, List<string> wanted) =>
            Enumerable.Range(0, Math.Max(0, words.Count - wanted.Count + 1)).Any(at => words.Skip(at).Take(wanted.Count).SequenceEqual(wanted, StringComparer.OrdinalIgnoreCase));
    }
}
