using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.App.Bundles;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Notices;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Healing;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Core.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>Makes full backups, checks, heals and thins vaults out, each as work; and knows how safe files are.</summary>
public sealed class BackupService(
    SessionService sessions, ShelfService shelves, ShelfDrives shelfDrives, VaultService vaults, BundleWatch bundles, BackupChoices choices, KeptContents contents, BackupsUnderWay underWay, WorkEngine engine, NoticeService notices, IDurableFiles files, TimeProvider time)
{
    private static readonly TimeSpan AskAgain = TimeSpan.FromSeconds(1);

    private readonly ConcurrentDictionary<Guid, Safety> _safe = new();

    // One of ours writes at a time: a backup adds to a vault while that is being checked, and what the check found is mended between two of them.
    private readonly ConcurrentDictionary<Guid, SemaphoreSlim> _writers = new();

    /// <summary>How safe files were, with what that was told from.</summary>
    private sealed record Safety(string Folder, long Inventory, string Vaults, IReadOnlyList<VaultHolding> Holdings, ImmutableArray<SafeFile> Files)
    {
        /// <summary>What they come to, for the number of places that was asked for last.</summary>
        public SafetyTally? Tally { get; set; }
    }

    /// <summary>How safe the media files of a session are; kept until one of them, or a vault, is otherwise. Of what changed alone it is judged anew.</summary>
    public ImmutableArray<SafeFile> SafetyOf(SessionRow row, SessionInventory inventory) => Safe(row, inventory, shelfDrives.Of(shelves.All())).Files;

    /// <summary>The same among those of many sessions.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="drives">Which drives things are on, looked at once for all.</param>
    public ImmutableArray<SafeFile> SafetyOf(SessionRow row, SessionInventory inventory, DrivesNow drives) => Safe(row, inventory, drives).Files;

    /// <summary>What the safety of a session's files comes to; counted anew only where one of them, or a vault, is otherwise.</summary>
    /// <param name="row">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="drives">Which drives things are on, looked at once for all.</param>
    public SafetyTally TallyOf(SessionRow row, SessionInventory inventory, DrivesNow drives)
    {
        ArgumentNullException.ThrowIfNull(row);
        var (safe, wanted) = (Safe(row, inventory, drives), WantedOf(row.Id));
        return safe.Tally is { } known && known.Wanted == wanted ? known : safe.Tally = FileSafety.Tally(safe.Files, wanted);
    }

    private Safety Safe(SessionRow row, SessionInventory inventory, DrivesNow drives)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(drives);
        // What is noted of a vault, as that it is away from the house, makes another revision as well.
        var revision = $"{vaults.Revision} {string.Join(' ', vaults.Sharing(row).Select(s => s.Folder))} {row.DocumentSessionId} {string.Join('|', vaults.All().Select(v => v.Name))} {drives.Revision}";
        var isKnown = _safe.TryGetValue(row.Id, out var known) && known.Vaults == revision && known.Folder == inventory.Folder;
        if (isKnown && known!.Inventory == inventory.Revision)
        {
            return known;
        }
        var holdings = isKnown ? known!.Holdings : [.. vaults.Holdings(row).Select(h => h with { Drive = drives.Of(h.Shelf) })];
        return _safe[row.Id] = new Safety(inventory.Folder, inventory.Revision, revision, holdings, FileSafety.Judge(inventory, holdings, drives.Of, isKnown ? known!.Files : default));
    }

    /// <summary>In how many places each media file of a session is wanted.</summary>
    public int WantedOf(Guid session) => choices.Of(session).Wanted;

    /// <summary>Makes a full backup.</summary>
    /// <param name="row">Of which session.</param>
    /// <param name="vault">Into which vault.</param>
    /// <param name="note">What is said of it.</param>
    /// <param name="byContent">Whether every file is read, whatever is remembered of it.</param>
    /// <param name="onlyIfChanged">Whether none is made where nothing is otherwise than in the last one.</param>
    /// <param name="isTold">Whether it is told by a notice that one which nobody waits for failed.</param>
    public Job BackUp(SessionRow row, Shelf vault, string? note, bool byContent, bool onlyIfChanged, bool isTold = true)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(vault);
        Job Start(Action? made) => engine.Start(new FullBackup(this, row, vault, note, byContent, onlyIfChanged, isTold) { Made = made, SessionId = row.Id, ShelfId = vault.Id, Reads = [row.Folder], Changes = [AddedTo(vault)], By = onlyIfChanged ? Who.ByItself : null });
        return onlyIfChanged ? Start(null) : underWay.Follow(row, vault.Name, note, Start);
    }

    /// <summary>Checks a vault, and heals what is damaged.</summary>
    /// <param name="vault">Which.</param>
    /// <param name="share">Bytes of content to read at the most; all where it is null.</param>
    public Job Check(Shelf vault, long? share)
    {
        ArgumentNullException.ThrowIfNull(vault);
        return engine.Start(new VaultChecking(this, vault, share) { ShelfId = vault.Id, Reads = [Path.Combine(vaults.StoreOf(vault).Place, VaultNames.Content)], MostAtOnce = 1, By = share is null ? null : Who.ByItself });
    }

    /// <summary>What thinning a vault out would do, for each session's backups.</summary>
    public ImmutableArray<ThinningVerdict> Thinning(Shelf vault, SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(vault);
        var remembered = vaults.Remembered(vault.Id);
        return Core.Vault.Thinning.Judge(
            vaults.In(vault).Where(b => vaults.IsOf(b, session)).Select(b => new ThinningCandidate(b.Name, b.Header!.Made.ToLocalTime(), b.Header.Note is not null) { Follows = b.Follows }),
            choices.Of(session.Id).Thinning,
            time.GetLocalNow().DateTime,
            c => remembered.Manifest(c.Name).Entries.Where(e => MediaFiles.KindOf(e.Path) is not null).Select(e => new HeldMedia(e.Hash, e.Path)));
    }

    /// <summary>Lets backups go that thinning says go, and gives their space back.</summary>
    /// <param name="vault">Of which vault.</param>
    /// <param name="session">Of which session.</param>
    /// <param name="names">Their names, as they were shown; what stays by now stays.</param>
    public Job Thin(Shelf vault, SessionRow session, IReadOnlyCollection<string> names)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(vault);
        return engine.Start(new ThinningOut(this, vault, session, names) { SessionId = session.Id, ShelfId = vault.Id, Changes = [vaults.StoreOf(vault).Place] });
    }

    private WorkEnd Run(FullBackup work, Job job)
    {
        job.HoldWhileRecording();
        // It may have waited: the drive as it is now counts.
        var (row, vault) = (work.Row, vaults.Of(vaults.Get(work.Vault.Id)));
        var inventory = sessions.InventoryOf(row, job.Cancel);
        var last = vaults.NewestOf(row, work.Vault).Select(b => b.Manifest).FirstOrDefault();
        var request = SessionBackup.Request(VaultService.KeyOf(row), inventory, shelves.All(), choices.Of(row.Id).WithOutside, time.GetLocalNow(), last) with
        {
            Note = work.Note,
            ByContent = work.ByContent,
            OnlyIfChanged = work.OnlyIfChanged,
            After = vaults.HighestNumber(work.Vault),
            Damaged = [.. vaults.DamagedIn(work.Vault)],
        };
        job.BeginAnew();
        var writer = WriterOf(work.Vault);
        writer.Wait(job.Cancel);
        try
        {
            var result = WhenFree(job, () => new BackupWriter(vault, files, contents).Write(request, p => job.Report(p.FilesDone, p.Files, p.BytesDone, p.Bytes, Path.GetFileName(p.Current)), job.Cancel));
            var header = result.Manifest.Header;
            if (request.Damaged.Count > 0)
            {
                // What was written again is whole; what this session does not hold is damaged still.
                var whole = result.Manifest.Entries.Select(e => VaultNames.Of(e.Hash)).ToHashSet(StringComparer.Ordinal);
                choices.Change(work.Vault.Id, r => r with { Damaged = [.. r.Damaged.Where(d => !whole.Contains(d))] });
            }
            if (result.Name is null)
            {
                return new WorkEnd(JobState.Done, $"Nothing is otherwise than in the backup of {header.Made.ToLocalTime():yyyy-MM-dd HH:mm}, so none was made.");
            }
            var without = Without(header);
            // What was left out of the backup before as well was told then.
            if (header.LeftOut.Except(last?.Header.LeftOut ?? []).Any())
            {
                notices.Tell(row.Id, $"The full backup of '{Path.GetFileName(row.Folder)}' in '{work.Vault.Name}' was made.{without}");
            }
            return new WorkEnd(JobState.Done, $"{ByteText.Count(header.Files, "file")}, {ByteText.Of(header.Bytes)}, {ByteText.Of(header.NewBytes)} of it new in the vault, read back and compared.{without}");
        }
        finally
        {
            writer.Release();
            contents.Write();
            vaults.Reread(work.Vault);
        }
    }

    /// <summary>What a backup could not take in, and why; and what it took over from the one before.</summary>
    private static string Without(BackupHeader header)
    {
        var reasons = header.LeftOut.Select((path, n) => $"'{path}' ({Reason(header.LeftOutWhy[n])})").ToList();
        var without = reasons.Count == 0 ? "" : $" Without {ByteText.Count(reasons.Count, "file")} that could not be had: {string.Join(", ", reasons.Take(5))}{(reasons.Count > 5 ? " and more" : "")}.";
        var over = header.TakenOver.Length == 0 ? "" : $" {ByteText.Count(header.TakenOver.Length, "file")} outside that {(header.TakenOver.Length == 1 ? "is" : "are")} not there now {(header.TakenOver.Length == 1 ? "is" : "are")} in as the backup before had {(header.TakenOver.Length == 1 ? "it" : "them")}.";
        return without + over;
    }

    private static string Reason(string why) => why switch
    {
        BackupLeftOut.Missing => "missing",
        BackupLeftOut.Away => "its drive is away",
        BackupLeftOut.LinkedFolder => "a folder that is a link",
        BackupLeftOut.LinkToNothing => "a link to nothing",
        BackupLeftOut.NotAFile => "a pipe, a socket or a device",
        BackupLeftOut.NameNotText => "its name is no valid text",
        _ => "could not be read",
    };

    /// <summary>Says once that a backup which is due waits for its drive.</summary>
    public void TellWaiting(SessionRow row, IReadOnlyList<Shelf> vaults)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(vaults);
        notices.Tell(row.Id, $"The daily backup of '{Path.GetFileName(row.Folder)}' waits for its drive: {string.Join(", ", vaults.Select(v => $"'{v.Name}'"))} {(vaults.Count == 1 ? "is" : "are")} away. It is made once it comes back.");
    }

    private void TellFailed(FullBackup work, string what) => notices.Tell(work.Row.Id, $"The backup of '{Path.GetFileName(work.Row.Folder)}' into '{work.Vault.Name}' that was due failed. {what}");

    private WorkEnd Run(VaultChecking work, Job job)
    {
        job.HoldWhileRecording();
        var vault = vaults.Of(vaults.Get(work.Vault.Id));
        var result = VaultCheck.Run(vault, vaults.RememberedNow(work.Vault), work.Share is null ? null : choices.OfVault(work.Vault.Id).CheckedNext, work.Share ?? long.MaxValue, p => job.Report(p.FilesDone, p.Files, p.BytesDone, p.Bytes, "content"), job.Cancel);
        var (healed, lost, stillDamaged) = Note(work, vault, result, job);
        vaults.Reread(work.Vault);
        var sentence = $"{ByteText.Count(result.Objects, "file")}, {ByteText.Of(result.Read)}, read and compared with what was written. {Told(healed, stillDamaged.Count)}{Foreign(result.Foreign)}";
        if (lost.Count > 0)
        {
            notices.Tell(null, $"The vault '{work.Vault.Name}' is damaged: {string.Join(" ", lost.Take(5).Select(l => Suffering(l)))}{(lost.Count > 5 ? $" {lost.Count - 5} more are listed with the vault." : "")} Nothing that has the same content was found to mend it from.");
        }
        return new WorkEnd(lost.Count > 0 ? JobState.Failed : JobState.Done, sentence);
    }

    /// <summary>Mends what was found, and notes what stays damaged, while no backup writes: one that ended in between would have put it right, or count on it.</summary>
    private (ImmutableArray<Healed> Healed, List<VaultFinding> Lost, List<string> StillDamaged) Note(VaultChecking work, BackupVault vault, VaultCheckResult result, Job job)
    {
        var writer = WriterOf(work.Vault);
        writer.Wait(job.Cancel);
        try
        {
            vault.RequireSame(result.Vault);
            List<VaultFinding> findings = result.Findings.IsEmpty ? [] : [.. VaultCheck.SufferersNow(vault, result.Findings)];
            if (findings.Count > 0)
            {
                // Whatever becomes of the mending, what was found counts as no copy from here on.
                choices.Change(work.Vault.Id, r => r with { Damaged = [.. findings.Select(f => f.Name).Union(r.Damaged).Order(StringComparer.Ordinal)] });
            }
            var healed = findings.Count == 0 ? [] : Heal(work, vault, findings, job);
            var lost = healed.Where(h => h.HealedFrom is null).Select(h => h.Finding).ToList();
            // What an earlier share found, and could not be healed then, may be whole by now.
            var stillDamaged = work.Share is null ? [] : choices.OfVault(work.Vault.Id).Damaged.Where(d => findings.TrueForAll(f => f.Name != d) && !IsWhole(vault, d, job.Cancel)).ToList();
            var now = time.GetUtcNow();
            choices.Change(work.Vault.Id, r => r with
            {
                CheckedNext = work.Share is null ? null : result.Next,
                Checked = now,
                CheckedWhole = result.Next is null && lost.Count + stillDamaged.Count == 0 ? now : r.CheckedWhole,
                Damaged = [.. lost.Select(l => l.Name).Concat(stillDamaged).Distinct().Order(StringComparer.Ordinal)],
            });
            return (healed, lost, stillDamaged);
        }
        finally
        {
            writer.Release();
        }
    }

    /// <summary>Another computer, or a second Neat Crate, may write in the vault: it goes on once that is done.</summary>
    private static T WhenFree<T>(Job job, Func<T> write)
    {
        while (true)
        {
            try
            {
                return write();
            }
            catch (FaultException e) when (e.Fault.Code == FaultCode.VaultBusy)
            {
                job.Report(0, 0, 0, 0, "waits: something else is writing in the vault");
                job.Cancel.WaitHandle.WaitOne(AskAgain);
                job.Cancel.ThrowIfCancellationRequested();
            }
        }
    }

    private ImmutableArray<Healed> Heal(VaultChecking work, BackupVault vault, List<VaultFinding> findings, Job job)
    {
        using var reading = new OriginReading(files, cancel: job.Cancel);
        var sources = Sources(work.Vault, findings, job.Cancel);
        return WhenFree(job, () => VaultHealing.Run(vault, findings, sources, reading, p => job.Report(p.FilesDone, p.Files, 0, 0, p.Current)));
    }

    private SemaphoreSlim WriterOf(Shelf vault) => _writers.GetOrAdd(vault.Id, _ => new SemaphoreSlim(1));

    /// <summary>Where new backups of a vault come to be: they are made one after the other, and while none is thinned out.</summary>
    private string AddedTo(Shelf vault) => Path.Combine(vaults.StoreOf(vault).Place, VaultNames.Backups);

    private static bool IsWhole(BackupVault vault, string name, CancellationToken cancel) =>
        vault.Store.Size(name) is not null && (!VaultNames.TryHash(name, out var hash) || VaultCheck.Holds(vault.Store, name, hash, null, cancel));

    private static string Told(ImmutableArray<Healed> healed, int stillDamaged)
    {
        if (healed.IsEmpty)
        {
            return stillDamaged == 0 ? "All of it is whole." : $"All of that is whole; {ByteText.Count(stillDamaged, "file")} found damaged before {(stillDamaged == 1 ? "is" : "are")} damaged still.";
        }
        var mended = healed.Where(h => h.HealedFrom is not null).ToList();
        var lost = healed.Where(h => h.HealedFrom is null).ToList();
        return string.Join(' ', new[]
        {
            mended.Count == 0 ? "" : $"{ByteText.Count(mended.Count, "damaged file")} mended, from {string.Join(", ", mended.Select(m => m.HealedFrom).Distinct().Take(5))}.",
            lost.Count == 0 ? "" : $"{ByteText.Count(lost.Count, "file")} damaged, and no place was found that has the same content: {string.Join(" ", lost.Take(5).Select(l => Suffering(l.Finding)))}",
        }.Where(t => t.Length > 0));
    }

    private static string Foreign(ImmutableArray<string> names) => names.IsEmpty ? ""
        : $" {ByteText.Count(names.Length, "file")} in the vault {(names.Length == 1 ? "is" : "are")} none of its own, and {(names.Length == 1 ? "stays" : "stay")}: {Sentences.List(names)}.";

    /// <summary>Damage by the names that people know: the file, and which backups suffer.</summary>
    private static string Suffering(VaultFinding finding) => finding switch
    {
        { Damage: VaultDamage.ManifestDamaged } => $"the list of the backup '{Path.GetFileNameWithoutExtension(finding.Name)}'.",
        { Damage: VaultDamage.ManifestMissing } => $"the list of the backup '{Path.GetFileNameWithoutExtension(finding.Name)}' (it is gone, though nobody deleted it).",
        { Sufferers: [] } => "content that no list names which can be read. Where it was still there, it stands in the vault's folder 'damaged'.",
        { Sufferers: var s } => $"'{s[0].Path}' in {ByteText.Count(s.Select(x => x.Backup).Distinct().Count(), "backup")}{(finding.Damage == VaultDamage.ContentMissing ? " (it is gone)" : "")}.",
    };

    /// <summary>Every other place that may have the same content: the sessions' own files, what is known of manifests, other vaults.</summary>
    private List<IHealingSource> Sources(Shelf vault, List<VaultFinding> findings, CancellationToken cancel)
    {
        var sources = new List<IHealingSource>();
        var wanted = findings.Where(f => f.Hash is not null).ToDictionary(f => f.Hash!.Value, f => f.Sufferers);
        var remembered = vaults.Remembered(vault.Id);
        foreach (var row in sessions.All())
        {
            var paths = new Dictionary<ContentHash, string>();
            foreach (var (hash, sufferers) in wanted)
            {
                foreach (var sufferer in sufferers.Where(s => s.Path.Length > 0))
                {
                    if (remembered.Store.Size(sufferer.Backup) is not null && vaults.IsOf(remembered.Listed(sufferer.Backup), row) && Path.Combine(row.Folder, sufferer.Path) is var path && File.Exists(path))
                    {
                        paths[hash] = path;
                    }
                }
            }
            if (paths.Count > 0)
            {
                sources.Add(new FilesSource($"the session '{Path.GetFileName(row.Folder)}'", paths, files));
            }
        }
        sources.Add(new VaultSource("what was remembered of it", remembered, isOfThisVault: true));
        // One that came a moment ago counts.
        bundles.LookNow(cancel).GetAwaiter().GetResult();
        sources.AddRange(bundles.All.Join(shelves.All().Where(s => s.IsConnected), b => b.ShelfId, s => s.Id, (b, s) => new BundleSource(Path.Combine(s.Root, b.Path), b.State, b.Entries)));
        sources.AddRange(vaults.All().Where(s => s.Id != vault.Id && s.IsConnected).Select(s => new VaultSource($"the vault '{s.Name}'", vaults.Of(s))));
        return sources;
    }

    private WorkEnd Run(ThinningOut work, Job job)
    {
        job.HoldWhileRecording();
        var going = Thinning(work.Vault, work.Session).Where(v => !v.Stays && work.Names.Contains(v.Candidate.Name)).Select(v => v.Candidate.Name).ToList();
        try
        {
            var (vault, remembered) = (vaults.Of(vaults.Get(work.Vault.Id)), vaults.RememberedNow(work.Vault));
            var swept = WhenFree(job, () => VaultSweep.Run(vault, going, remembered, p => job.Report(p.FilesDone, 0, p.BytesDone, 0, "content"), job.Cancel));
            return new WorkEnd(JobState.Done, $"{ByteText.Count(swept.Backups, "backup")} deleted, {ByteText.Of(swept.Bytes)} given back.");
        }
        finally
        {
            vaults.Reread(work.Vault);
        }
    }

    private sealed class FullBackup(BackupService service, SessionRow row, Shelf vault, string? note, bool byContent, bool onlyIfChanged, bool isTold)
        : Work(JobWork.Backup, $"Back up '{Path.GetFileName(row.Folder)}' into '{vault.Name}'")
    {
        public SessionRow Row => row;

        public Shelf Vault => vault;

        public string? Note => note;

        public bool ByContent => byContent;

        public bool OnlyIfChanged => onlyIfChanged;

        /// <summary>Said once it is made, before the job is over: from then on nothing can cut it off.</summary>
        public Action? Made { get; init; }

        public override string WhenCancelled => "Stopped before the backup was made. What is in the vault by now stays, and the next one goes on from there.";

        public override string WhenFailed(Exception cause) => "The backup was not made. " + Problems.Describe(cause).Title + " What is in the vault by now stays, and the next one goes on from there.";

        public override WorkEnd Run(Job job)
        {
            try
            {
                var end = service.Run(this, job);
                Made?.Invoke();
                return end;
            }
            catch (Exception e) when (onlyIfChanged && isTold && e is not OperationCanceledException)
            {
                // Nobody pressed a button for it, so nobody looks whether it went well.
                service.TellFailed(this, WhenFailed(e));
                throw;
            }
        }
    }

    private sealed class VaultChecking(BackupService service, Shelf vault, long? share) : Work(JobWork.Check, $"Check {(share is null ? "the vault" : "a share of the vault")} '{vault.Name}'")
    {
        public Shelf Vault => vault;

        public long? Share => share;

        public override string WhenCancelled => "Stopped. Nothing was changed but what was mended by then.";

        public override string WhenFailed(Exception cause) => "The vault could not be checked. " + Problems.Describe(cause).Title;

        public override WorkEnd Run(Job job) => service.Run(this, job);
    }

    private sealed class ThinningOut(BackupService service, Shelf vault, SessionRow session, IReadOnlyCollection<string> names) : Work(JobWork.Thinning, $"Thin out the backups in '{vault.Name}'")
    {
        public Shelf Vault => vault;

        public SessionRow Session => session;

        public IReadOnlyCollection<string> Names => names;

        public override string WhenCancelled => "Stopped. Backups that had gone by then are gone; space that was not given back yet is given back the next time.";

        public override string WhenFailed(Exception cause) => Problems.Describe(cause).Title;

        public override WorkEnd Run(Job job) => service.Run(this, job);
    }
}
