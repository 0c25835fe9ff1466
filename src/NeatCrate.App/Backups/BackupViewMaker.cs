using System.Collections.Immutable;
using NeatCrate.App.Jobs;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>Makes views of backups.</summary>
public sealed class BackupViewMaker(
    SessionService sessions, ShelfService shelves, ShelfDrives shelfDrives, DocumentPlaces places, VaultService vaults, VersionService versions, SavedWithout without, BackupService backups, BackupChoices choices, RecordingGuard guard, TimeProvider time)
{
    private const int MostNamed = 100;

    /// <summary>All about the backups of a session.</summary>
    /// <exception cref="IOException">The session cannot be reached.</exception>
    public BackupsView Backups(SessionRow row, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        var inventory = sessions.Show(row, shelves.All(), cancel);
        var (choice, drives) = (choices.Of(row.Id), shelfDrives.Of(shelves.All()));
        return new BackupsView(
            Status(row, inventory),
            View(choice),
            [.. vaults.All().Select(v =>
            {
                var (record, all) = (choices.OfVault(v.Id), vaults.In(v));
                return new VaultView(
                    v.Id, v.Name, v.IsConnected, v.FreeBytes, all.Count(b => vaults.IsOf(b, row)), all.Length, all.Length > 0 || Directory.Exists(vaults.StoreOf(v).Place), record.IsAwayFromHouse, record.Checked,
                    record.CheckedWhole, [.. vaults.DamageIn(v)], drives.Of(v.Id) == drives.Of(row.Folder), vaults.ProblemOf(v) is { } problem ? Sentences.Of(problem) : null);
            })],
            [.. versions.Of(row).Select(v => View(v, inventory.Current))],
            guard.What);
    }

    /// <summary>Whether a session is backed up, in a few figures.</summary>
    public BackupStatusView Status(SessionRow row, SessionInventory inventory)
    {
        var known = shelves.All();
        return Status(row, inventory, known, shelfDrives.Of(known));
    }

    /// <summary>The same among those of many sessions.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="known">All known shelves, looked at once for all.</param>
    /// <param name="drives">Which drives they are on.</param>
    public BackupStatusView Status(SessionRow row, SessionInventory inventory, IReadOnlyList<Shelf> known, DrivesNow drives)
    {
        ArgumentNullException.ThrowIfNull(row);
        var (kept, full) = (places.Of(row, known), vaults.Of(row));
        var (states, second) = (places.StatesOf(row, kept), kept.SecondShelf);
        var tally = backups.TallyOf(row, inventory, drives);
        var safety = new SafetyView(tally.Wanted, Amount(tally.OnlyHere), Amount(tally.OnOneDrive), Amount(tally.TooFew), Amount(tally.Safe), tally.AwayFromHouse, tally.Lost);
        var (lastDocument, lastFull) = (states.States.IsEmpty ? (DateTime?)null : states.States[^1].Kept.Saved, full.Count == 0 ? (DateTime?)null : full[0].Backup.Header!.Made.ToLocalTime());
        var damaged = vaults.All().Sum(v => vaults.DamageIn(v).Count);
        return new BackupStatusView(
            Sentence(lastFull, second?.Name, second is { IsConnected: false }, states.Behind ?? 0, tally, damaged, states), lastDocument, lastFull, second?.Name, second is { IsConnected: false }, states.Behind ?? 0, safety,
            damaged > 0 || states.Changed.Length > 0 || states.Behind > 0 || tally is { OnlyHere.Files: > 0 } or { Wanted: > 1, OnOneDrive.Files: > 0 });
    }

    private static AmountView Amount((int Files, long Bytes) amount) => new(amount.Files, amount.Bytes);

    private string Sentence(DateTime? full, string? second, bool secondIsAway, int behind, SafetyTally tally, int damaged, KeptStates states)
    {
        var parts = new List<string>();
        if (damaged > 0)
        {
            parts.Add($"A vault is damaged in {ByteText.Count(damaged, "place")}.");
        }
        foreach (var (isElsewhere, changed) in states.Changed.Select(c => Path.GetFileName(c)).Distinct(StringComparer.Ordinal).GroupBy(c => states.States.Any(s => s.Kept.Name == c)).Select(g => (g.Key, g.ToImmutableArray())))
        {
            var (are, it) = changed.Length == 1 ? ("is a kept save that is", "it") : ("are kept saves that are", "each");
            parts.Add($"{Sentences.List(changed)} {are} no longer what was kept; {(isElsewhere ? $"another copy of {it} is whole" : $"no other copy of {it} is there")}.");
        }
        if (tally.Lost is > 0 and var lost)
        {
            parts.Add($"{ByteText.Count(lost, "file")} {(lost == 1 ? "is" : "are")} missing and in no backup.");
        }
        parts.Add(tally switch
        {
            { OnlyHere.Files: > 0 } t => $"{ByteText.Count(t.OnlyHere.Files, "file")}, {ByteText.Of(t.OnlyHere.Bytes)}, {(t.OnlyHere.Files == 1 ? "is" : "are")} only here.",
            { Wanted: > 1, OnOneDrive.Files: > 0 } t => $"{ByteText.Count(t.OnOneDrive.Files, "file")}, {ByteText.Of(t.OnOneDrive.Bytes)}, {(t.OnOneDrive.Files == 1 ? "is" : "are")} on one drive only, backup and all.",
            { TooFew.Files: > 0 } t => $"{ByteText.Count(t.TooFew.Files, "file")} in fewer than {t.Wanted} places.",
            { Wanted: 1, Safe.Files: > 0 } t => t.Lost > 0 ? "Every other file is there." : "Every file is there.",
            { Safe.Files: > 0 } t => $"Every {(t.Lost > 0 ? "other " : "")}file is in {t.Wanted} places or more.",
            _ => "No media yet.",
        });
        if (behind > 0)
        {
            parts.Add($"'{second}'{(secondIsAway ? " is away and" : "")} lacks {ByteText.Count(behind, "kept save")}.");
        }
        parts.Add(full is { } at ? $"Last full backup {Ago(at)}." : "No full backup yet.");
        return string.Join(' ', parts.Where(p => p.Length > 0));
    }

    private string Ago(DateTime local)
    {
        var ago = time.GetLocalNow().DateTime - local;
        return ago.TotalMinutes < 2 ? "just now" : ago.TotalHours < 2 ? $"{(int)ago.TotalMinutes} min ago" : ago.TotalDays < 2 ? $"{(int)ago.TotalHours} hours ago" : $"{(int)ago.TotalDays} days ago";
    }

    /// <summary>A version in the logbook.</summary>
    public VersionView View(SessionVersion version, InventoryDocument? current)
    {
        ArgumentNullException.ThrowIfNull(version);
        if (version.State is { } state)
        {
            return new VersionView(
                version.Key, VersionKind.Document, version.Saved, version.Document, state.Kept.Note, state.Kept.Bytes, null, null, null, state.IsHere, state.IsInSecond, null, false,
                current is not null && Path.GetFileName(current.Path) == version.Document && current.Identity.Bytes == state.Kept.Bytes && IdentityOf(state) == current.Identity);
        }
        var (shelf, header) = (version.Full!.Shelf, version.Full.Backup.Header!);
        return new VersionView(version.Key, VersionKind.Full, version.Saved, version.Document, header.Note, header.Bytes, header.NewBytes, header.Files, header.LeftOut.Length, false, false, shelf.Name, !shelf.IsConnected, false);
    }

    private static ByteIdentity? IdentityOf(PlacedState state)
    {
        try
        {
            return state.Place.IdentityOf(state.Kept);
        }
        catch (FaultException)
        {
            // It went in this moment, or cannot be read: then nobody can say that it is the same.
            return null;
        }
    }

    /// <summary>What thinning the kept states of a session's documents out would do.</summary>
    public ImmutableArray<ThinningVerdict> Thinning(SessionRow row) => Core.Vault.Thinning.Judge(
        places.StatesOf(row).States.Select(s => new ThinningCandidate(s.Kept.Name, s.Kept.Saved, s.Kept.Note is not null)), choices.Of(row.Id).Thinning, time.GetLocalNow().DateTime);

    /// <summary>How something is backed up, as the pages show it.</summary>
    public static BackupChoiceView View(BackupChoice choice)
    {
        ArgumentNullException.ThrowIfNull(choice);
        return new BackupChoiceView(
            choice.KeepsInSession, choice.SecondShelf, choice.WithOutside, choice.Wanted, choice.DailyAt, choice.AtRest, choice.WhenPluggedIn, choice.Thinning.Last, choice.Thinning.Hours, choice.Thinning.Days);
    }

    /// <summary>What was chosen on a page.</summary>
    public static BackupChoice Chosen(BackupChoiceView choice)
    {
        ArgumentNullException.ThrowIfNull(choice);
        return new BackupChoice(
            choice.KeepsInSession, choice.SecondShelf, choice.WithOutside, choice.Wanted, choice.DailyAt, choice.AtRest, choice.WhenPluggedIn, new ThinningPolicy(choice.KeepLast, choice.KeepHours, choice.KeepDays));
    }

    /// <summary>What becomes of a backup that is thinned out.</summary>
    public static ThinningView View(ThinningVerdict verdict)
    {
        ArgumentNullException.ThrowIfNull(verdict);
        return new ThinningView(verdict.Candidate.Name, verdict.Candidate.Made, verdict.Stays, verdict.Reason switch
        {
            ThinningReason.OneOfTheLast => "one of the last",
            ThinningReason.NewestOfItsHour => "the newest of its hour",
            ThinningReason.NewestOfItsDay => "the newest of its day",
            ThinningReason.NewestOfItsWeek => "the newest of its week",
            ThinningReason.HasNote => "it has a note",
            ThinningReason.AloneHoldsMedia => "it alone holds " + Sentences.List(verdict.Alone),
            ThinningReason.Unreadable => "it cannot be read now",
            _ => "a newer one stays",
        }, [.. verdict.Alone]);
    }

    /// <summary>What differs between two versions; null stands for the document as it is now.</summary>
    /// <exception cref="FaultException">One of them cannot be read.</exception>
    public ComparisonView Compare(SessionRow row, SessionVersion? one, SessionVersion? other, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        var inventory = sessions.Show(row, shelves.All(), cancel);
        // The one that is now comes after all that was.
        var (before, after) = one is null || (other is not null && one.Saved > other.Saved) ? (other, one) : (one, other);
        var isByNames = IsByNames(before, inventory) || IsByNames(after, inventory);
        var difference = isByNames
            ? CompareByNames(before, after, inventory)
            : VersionComparison.Compare(Read(before, inventory), Read(after, inventory), row.Folder);
        var (thereThen, thereAfter) = (WasThere(row, before), WasThere(row, after));
        var tracks = difference.Tracks.Select(t => new TrackDifferenceView(
            t.Name, t.Change, t.Same, [.. t.Clips.Select(c => new ClipDifferenceView(c.Change, c.Name, c.Before, c.After, c.OtherTrack, c.Path is not null && !File.Exists(c.Path)))])).ToArray();
        var files = difference.Files.Select(f => new FileDifferenceView(
            Path.GetRelativePath(row.Folder, f.Path) is var relative && relative.StartsWith("..", StringComparison.Ordinal) ? f.Path : relative,
            Path.GetFileName(f.Path), f.IsNewlyUsed, File.Exists(f.Path), (f.IsNewlyUsed ? thereAfter : thereThen)(f.Path))).ToArray();
        return new ComparisonView(
            Sentence(tracks, files, difference.Others, isByNames), before is null ? null : View(before, inventory.Current), after is null ? null : View(after, inventory.Current), tracks, files, difference.Others, isByNames);
    }

    private static bool IsByNames(SessionVersion? version, SessionInventory inventory) => version is null ? inventory.IsByNames : VersionService.IsByNames(version);

    /// <summary>What two versions name of which one at least cannot be read further.</summary>
    private VersionDifference CompareByNames(SessionVersion? before, SessionVersion? after, SessionInventory inventory)
    {
        var names = new NamedFiles(inventory, shelves.All());
        IReadOnlySet<string> Uses(SessionVersion? version) =>
            (version is not null ? versions.UsesOf(inventory.Folder, version, names) : inventory.IsByNames ? names.In(Bytes(null)) : VersionComparison.Used(Read(null, inventory), inventory.Folder))
            ?? throw new FaultException(new Fault(FaultCode.NamesNotAllFound) { Name = version?.Document ?? Path.GetFileName(inventory.Current!.Path) });
        byte[] Bytes(SessionVersion? version) => version is not null ? versions.BytesOf(version) : ReadableFile.ReadAll(CurrentIn(inventory), DocumentFormats.MostBytes);
        return VersionComparison.CompareFiles(Uses(before), Uses(after), Bytes(before).AsSpan().SequenceEqual(Bytes(after)));
    }

    private static string CurrentIn(SessionInventory inventory) => (inventory.Current ?? throw new FaultException(new Fault(FaultCode.NoDocument) { Path = inventory.Folder })).Path;

    /// <summary>Whether a file was there in a version: a full backup holds it or not, of a kept save it was noted. Null where nobody knows.</summary>
    private Func<string, bool?> WasThere(SessionRow row, SessionVersion? version)
    {
        if (version?.State is { } state)
        {
            return path => without.WasThere(row.Id, state.Kept.Name, path);
        }
        var held = version?.Full is null ? null : versions.ManifestOf(version).Entries.Select(e => e.Outside ?? Path.Combine(row.Folder, e.Path)).ToHashSet(StringComparer.Ordinal);
        return path => held?.Contains(path);
    }

    private ITracks Read(SessionVersion? version, SessionInventory inventory) => version is not null
        ? DocumentFormats.Read<ITracks>(version.Document ?? "", versions.BytesOf(version))
        : DocumentFormats.ReadFile<ITracks>(CurrentIn(inventory));

    private static string Sentence(TrackDifferenceView[] tracks, FileDifferenceView[] files, bool others, bool isByNames)
    {
        var use = isByNames ? "named" : "used";
        string Count(VersionChange change, string what)
        {
            var count = tracks.Sum(t => t.Clips.Count(c => c.Change == change));
            return count == 0 ? "" : $"{ByteText.Count(count, "clip")} {what}";
        }
        var (added, gone) = (tracks.Count(t => t.Change == VersionChange.Added), tracks.Count(t => t.Change == VersionChange.Gone));
        string[] parts =
        [
            added == 0 ? "" : $"{ByteText.Count(added, "track")} added", gone == 0 ? "" : $"{ByteText.Count(gone, "track")} gone",
            Count(VersionChange.Added, "added"), Count(VersionChange.Gone, "gone"), Count(VersionChange.Moved, "moved"), Count(VersionChange.Changed, "changed"),
            files.Count(f => f.IsNewlyUsed) is var used and > 0 ? $"{ByteText.Count(used, "file")} newly {use}" : "",
            files.Count(f => !f.IsNewlyUsed) is var unused and > 0 ? $"{ByteText.Count(unused, "file")} no longer {use}" : "",
        ];
        var told = string.Join(", ", parts.Where(p => p.Length > 0));
        return told.Length > 0 ? told + "." : others ? isByNames ? "The two name the same files; something else in the document differs." : "No track and no clip differs; something else in the document does." : "The two are the same.";
    }

    /// <summary>When a file was last used, and last there.</summary>
    public FileHistoryView History(SessionRow row, InventoryFile file)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(file);
        var asked = versions.Of(row);
        return History(versions.HistoryOf(row, asked, file.Path), file.PlacedTimes > 0, file.NamedTimes > 0, file.Standing is Standing.Inside or Standing.Outside, ByKey(asked));
    }

    /// <summary>The same for all files that a version plays or holds under a name.</summary>
    public NamedFilesView Named(SessionRow row, string text, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        var (asked, drives) = (versions.Of(row), shelves.All());
        var (total, files) = versions.Named(row, asked, text, MostNamed);
        var (known, byKey) = (sessions.Show(row, drives, cancel).Files.ToLookup(f => f.Path, StringComparer.Ordinal), ByKey(asked));
        return new NamedFilesView(total,
        [
            .. files.Select(f =>
            {
                // What the session does not know any more is looked for; a drive that is away is not waited for.
                var file = known[f.Path].FirstOrDefault();
                var isThere = file is null ? Shelf.Holding(drives, f.Path) is not { IsConnected: false } && File.Exists(f.Path) : file.Standing is Standing.Inside or Standing.Outside;
                return new NamedFileView(
                    Path.GetFileName(f.Path), ShelfPath.IsWithin(f.Path, row.Folder) ? Path.GetRelativePath(row.Folder, f.Path) : f.Path, History(f.History, file is { PlacedTimes: > 0 }, file is { NamedTimes: > 0 }, isThere, byKey));
            }),
        ]);
    }

    private static Dictionary<string, SessionVersion> ByKey(ImmutableArray<SessionVersion> versions) => versions.ToDictionary(v => v.Key, StringComparer.Ordinal);

    private FileHistoryView History(FileHistory history, bool isUsed, bool isNamed, bool isThere, Dictionary<string, SessionVersion> byKey)
    {
        VersionView? Of(string? key) => key is null ? null : View(byKey[key], null);
        var (used, notUsed, there, notThere) = (Of(history.LastUsed), Of(history.NotUsedSince), Of(history.LastThere), Of(history.NotThereSince));
        string[] parts =
        [
            isUsed ? "It is used now."
                : isNamed ? "It is named now."
                : used is null ? $"No version that can be read {(history.IsByNames ? "names" : "uses")} it."
                : $"It was last {(history.IsByNames ? "named" : "used")} on {used.Saved:yyyy-MM-dd HH:mm}" + (notUsed is null ? ", in the newest version that was kept." : $", and no longer on {notUsed.Saved:yyyy-MM-dd HH:mm}."),
            isThere ? "It is there now."
                : there is null ? "No full backup holds it."
                : $"It was last there on {there.Saved:yyyy-MM-dd HH:mm}, in '{there.Vault}'" + (notThere is null ? "." : $", and no longer on {notThere.Saved:yyyy-MM-dd HH:mm}."),
            $"{ByteText.Count(history.Asked, "version")} asked" + (history.Unreadable == 0 ? "." : $", {history.Unreadable} of them not to be read."),
        ];
        return new FileHistoryView(string.Join(' ', parts), used, notUsed, there, notThere, history.Asked, history.Unreadable);
    }

    /// <summary>What a version holds.</summary>
    public VersionContentView Content(SessionRow row, SessionVersion version)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(version);
        VersionFileView[] held = version.Full is null ? [] :
        [
            .. versions.ManifestOf(version).Entries.Select(e =>
            {
                var facts = FileFacts.Of(Path.Combine(row.Folder, e.Path));
                return new VersionFileView(e.Path, e.Bytes, e.ModifiedUtc, facts is not null, facts is { } f && f.Bytes == e.Bytes && f.ModifiedUtc == e.ModifiedUtc, e.Outside is not null);
            }),
        ];
        try
        {
            return new VersionContentView(View(version, null), [.. DocumentFormats.Read<ITracks>(version.Document ?? "", versions.BytesOf(version)).Tracks], held, null);
        }
        catch (FaultException e)
        {
            return new VersionContentView(View(version, null), [], held, Sentences.Of(e.Fault));
        }
    }
}
