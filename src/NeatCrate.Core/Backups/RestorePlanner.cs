using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Json;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Backups;

/// <summary>A version of a document that can be brought back.</summary>
/// <param name="Origin">What it is made from: a kept state, or content of a vault.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="Document">File name of the document that it is a version of.</param>
/// <param name="Saved">When it was saved, in local time.</param>
public sealed record DocumentVersion(FileOrigin Origin, long Bytes, string Document, DateTime Saved);

/// <summary>Plans to bring back what was kept: beside what is there, never over it.</summary>
public static class RestorePlanner
{
    /// <summary>A version beside the current document, under a new name. Which document is current stays as it is.</summary>
    public static Plan Document(Guid sessionId, SessionInventory inventory, DocumentVersion version)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(version);
        var (stem, extension) = (Path.GetFileNameWithoutExtension(version.Document), Path.GetExtension(version.Document));
        var name = FreeNames.In(inventory.Folder).Claim($"{stem} restored {BackupVault.Stamp(version.Saved)}{extension}");
        var steps = ImmutableArray.CreateBuilder<PlanStep>();
        var remarks = ImmutableArray.CreateBuilder<Fault>();
        steps.Add(new MakeFileStep(Path.Combine(inventory.Folder, name), $"as it was saved on {version.Saved:yyyy-MM-dd HH:mm}", version.Origin, version.Bytes));
        if (inventory.Current is { } current && Path.GetDirectoryName(current.Path) == inventory.Folder)
        {
            // The newest by name or time would become current by itself where nothing is stated.
            if (!inventory.CurrentIsStated)
            {
                steps.Add(SessionCardStep.State(inventory.Folder, Path.GetFileName(current.Path)));
            }
            remarks.Add(new Fault(FaultCode.CurrentStays) { Name = Path.GetFileName(current.Path) });
        }
        return Make(sessionId, $"Bring '{name}' back beside the current document; nothing is changed or replaced.", [inventory.Folder], steps.ToImmutable(), remarks, []);
    }

    /// <summary>Single tracks of a version into the current document, as new tracks at its end.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="version">The version's bytes.</param>
    /// <param name="saved">When it was saved, in local time.</param>
    /// <param name="tracks">Names of the tracks.</param>
    /// <exception cref="UnreadableDocumentException">The version, or the current document, cannot be read.</exception>
    public static Plan Tracks(Guid sessionId, SessionInventory inventory, byte[] version, DateTime saved, IReadOnlyList<string> tracks)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(tracks);
        if (inventory.Current is not { Problem: null } current)
        {
            return Make(sessionId, "Nothing can be brought back.", [inventory.Folder], [], [], [inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder }]);
        }
        var bytes = ReadableFile.ReadAll(current.Path, SessionDocument.MostBytes);
        var (then, now) = (SessionDocument.Parse(version), SessionDocument.Parse(bytes));
        var refusals = new List<Fault>();
        if (!now.TakesTracks)
        {
            refusals.Add(new Fault(FaultCode.TracksNotTaken) { Name = Path.GetFileName(current.Path) });
        }
        var missing = new HashSet<string>(StringComparer.Ordinal);
        var brought = new List<string>();
        foreach (var name in tracks.Distinct(StringComparer.Ordinal))
        {
            if (then.TopTracks.FirstOrDefault(t => (t["name"]?.AsText ?? "") == name) is not { } track)
            {
                refusals.Add(new Fault(FaultCode.TrackNotInVersion) { Name = name });
            }
            else if (refusals.Count == 0)
            {
                var title = $"{name} (from {saved:yyyy-MM-dd HH.mm})";
                now.AddTrackAsItIs(track, title);
                brought.Add(title);
                missing.UnionWith(TrackClips.In(then).Where(c => c.Track == name).SelectMany(c => Silent(c.TargetUrl, inventory)));
            }
        }
        var sentence = $"Bring {string.Join(", ", brought.Select(b => $"'{b}'"))} back into '{Path.GetFileName(current.Path)}' as {(brought.Count == 1 ? "a new track" : "new tracks")}; all other tracks stay as they are.";
        return Make(
            sessionId,
            sentence,
            [inventory.Folder],
            refusals.Count > 0 ? [] : [new ReplaceDocumentStep(current.Path, $"with {ByteText.Count(brought.Count, "track")} of an earlier version", now.ToUtf8(), ByteIdentity.Of(bytes))],
            missing.Count == 0 ? [] : [new Fault(FaultCode.VersionIsSilent) { Names = [.. missing.Order(StringComparer.Ordinal)] }],
            refusals);
    }

    /// <summary>Files out of a full backup, each to the place that it had. What is there as it was stays; another file in that place stays as well.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="backup">The backup.</param>
    /// <param name="vault">Its vault, in a folder.</param>
    /// <param name="paths">Paths from the session folder.</param>
    /// <param name="holds">Whether a file holds a content now.</param>
    /// <param name="users">Tells who misses what comes back; null where nobody does.</param>
    public static Plan Files(Guid sessionId, SessionInventory inventory, BackupManifest backup, FolderStore vault, IReadOnlyCollection<string> paths, Func<string, ContentHash, bool> holds, IFileUsers? users = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(backup);
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(paths);
        ArgumentNullException.ThrowIfNull(holds);
        var chosen = backup.Entries.Where(e => paths.Contains(e.Path)).ToList();
        var (steps, refusals, remarks, there) = (new List<PlanStep>(), new List<Fault>(), new List<Fault>(), new List<string>());
        if (paths.Except(chosen.Select(c => c.Path)).Order(StringComparer.Ordinal).ToImmutableArray() is { Length: > 0 } unknown)
        {
            refusals.Add(new Fault(FaultCode.NotInTheVersion) { Names = unknown });
        }
        var folders = new HashSet<string>(StringComparer.Ordinal);
        var names = new Dictionary<string, FreeNames>(StringComparer.Ordinal);
        foreach (var entry in chosen)
        {
            var place = Path.Combine(inventory.Folder, entry.Path);
            if (FileFacts.OfName(place) is not null)
            {
                if (holds(place, entry.Hash))
                {
                    there.Add(entry.Path);
                    continue;
                }
                var folder = Path.GetDirectoryName(place)!;
                if (!names.TryGetValue(folder, out var free))
                {
                    names[folder] = free = FreeNames.In(folder);
                }
                place = Path.Combine(folder, free.ClaimAsItIs($"{Path.GetFileNameWithoutExtension(place)} restored {BackupVault.Stamp(backup.Header.Made.ToLocalTime())}{Path.GetExtension(place)}"));
                remarks.Add(new Fault(FaultCode.ComesBackBeside) { Name = entry.Path, Other = Path.GetFileName(place) });
            }
            steps.AddRange(MissingFolders.Steps(Path.GetDirectoryName(place)!, inventory.Folder, "as it was in the backup").Where(s => folders.Add(s.Destination)));
            steps.Add(Content(entry, place, vault, refusals));
        }
        if (there.Count > 0)
        {
            remarks.Add(new Fault(FaultCode.ThereAlready) { Names = [.. there] });
        }
        var (count, bytes) = (steps.OfType<MakeFileStep>().Count(), steps.Sum(s => s.WritesBytes));
        return Make(
            sessionId,
            $"Bring {ByteText.Count(count, "file")} back, {ByteText.Of(bytes)}, from the backup of {backup.Header.Made.ToLocalTime():yyyy-MM-dd HH:mm}; nothing is replaced.",
            [inventory.Folder],
            refusals.Count > 0 ? [] : [.. MissingNow.Noted(steps, users)],
            remarks,
            refusals);
    }

    /// <summary>A whole session into an empty place, byte for byte, each file held to its SHA-512.</summary>
    /// <param name="backup">The backup.</param>
    /// <param name="vault">Its vault, in a folder.</param>
    /// <param name="parent">Absolute path of the folder that the session folder comes into.</param>
    /// <param name="name">Name of the session folder.</param>
    /// <param name="sessions">Absolute paths of the known sessions' folders.</param>
    public static Plan Whole(BackupManifest backup, FolderStore vault, string parent, string name, IEnumerable<string> sessions)
    {
        ArgumentNullException.ThrowIfNull(backup);
        ArgumentNullException.ThrowIfNull(vault);
        ArgumentNullException.ThrowIfNull(sessions);
        var folder = Path.Combine(parent, name);
        var refusals = new List<Fault>();
        if (!Directory.Exists(parent))
        {
            refusals.Add(new Fault(FaultCode.NoSuchFolder) { Path = parent });
        }
        else if (sessions.FirstOrDefault(s => ShelfPath.IsWithin(RealPath.Of(parent), RealPath.Of(s))) is { } session)
        {
            refusals.Add(new Fault(FaultCode.RestoreIntoSession) { Path = session });
        }
        else if (FileFacts.OfName(folder) is not null && (!Directory.Exists(folder) || Directory.EnumerateFileSystemEntries(folder).Any()))
        {
            refusals.Add(new Fault(FaultCode.PlaceNotEmpty) { Path = folder });
        }
        if (PortableName.Problems(name) is { Count: > 0 } problems && (name != backup.Header.Folder || !SessionLayout.IsBelow(name) || name.Contains('/', StringComparison.Ordinal)))
        {
            refusals.AddRange(problems);
        }
        var (steps, remarks) = (new List<PlanStep>(), new List<Fault>());
        if (refusals.Count == 0)
        {
            var repointed = Repointed(backup, vault, folder, remarks);
            var folders = backup.Entries.Select(e => Path.GetDirectoryName(e.Path)!).Concat(backup.EmptyFolders).SelectMany(WithThoseAbove).Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal);
            steps.AddRange(Directory.Exists(folder) ? [] : [new MakeFolderStep(folder, "the session folder")]);
            steps.AddRange(folders.Select(f => new MakeFolderStep(Path.Combine(folder, f), "as it was in the backup")));
            steps.AddRange(backup.Entries.Select(e => repointed.TryGetValue(e.Path, out var content)
                ? MakeFileStep.Write(Path.Combine(folder, e.Path), "as it was in the backup, pointing at what came back with it", content)
                : Content(e, Path.Combine(folder, e.Path), vault, refusals)));
        }
        if (!backup.Header.LeftOut.IsEmpty)
        {
            remarks.Add(new Fault(FaultCode.BackupLeftOut) { Names = backup.Header.LeftOut });
        }
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.RestoreSession,
            Sentence = $"Bring '{name}' back into '{parent}' as it was on {backup.Header.Made.ToLocalTime():yyyy-MM-dd HH:mm}: {ByteText.Count(backup.Entries.Length, "file")}, {ByteText.Of(backup.Header.Bytes)}, each checked.",
            WritableRoots = [parent],
            Steps = refusals.Count > 0 ? [] : [.. steps],
            Remarks = [.. remarks],
            Refusals = [.. refusals],
        };
    }

    /// <summary>
    /// Documents that point at media outside which are no longer there, as they must be to find them in what comes back; by path. All
    /// others come back byte for byte.
    /// </summary>
    private static Dictionary<string, byte[]> Repointed(BackupManifest backup, FolderStore vault, string folder, List<Fault> remarks)
    {
        var changed = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        var gone = backup.Entries.Where(e => e.Outside is not null && !File.Exists(e.Outside)).DistinctBy(e => e.Outside).ToDictionary(e => e.Outside!, e => e.Path, StringComparer.Ordinal);
        foreach (var entry in gone.Count == 0 ? [] : backup.Entries.Where(e => SessionFolder.IsDocument(Path.GetFileName(e.Path)) && !ShelfPath.IsWithin(e.Path, SessionLayout.DocumentBackups)))
        {
            try
            {
                var document = SessionDocument.Parse(vault.Read(VaultNames.Of(entry.Hash)));
                // A document among the older ones points as if it stood at the top.
                if (document.Repoint(r => MediaUrl.Candidates(r.TargetUrl, folder).FirstOrDefault(gone.ContainsKey) is { } path ? new NewReference(MediaUrl.From(Path.Combine(folder, gone[path]), folder)) : null) > 0)
                {
                    changed[entry.Path] = document.ToUtf8();
                }
            }
            catch (FaultException)
            {
                // One that cannot be read comes back as it is; content that is damaged is found when it is copied.
            }
        }
        if (changed.Count > 0)
        {
            remarks.Add(new Fault(FaultCode.PointsAtWhatCameBack) { Count = gone.Count, Names = [.. changed.Keys] });
        }
        return changed;
    }

    /// <summary>A version of a document that a full backup holds.</summary>
    /// <exception cref="FaultException">The vault lost its content.</exception>
    public static DocumentVersion VersionIn(BackupEntry entry, FolderStore vault)
    {
        ArgumentNullException.ThrowIfNull(entry);
        ArgumentNullException.ThrowIfNull(vault);
        return new DocumentVersion(Origin(entry, vault) ?? throw new FaultException(Lost(entry, vault)), entry.Bytes, Path.GetFileName(entry.Path), entry.ModifiedUtc.ToLocalTime());
    }

    private static PlanStep Content(BackupEntry entry, string place, FolderStore vault, List<Fault> refusals)
    {
        if (Origin(entry, vault) is not { } origin)
        {
            refusals.Add(Lost(entry, vault));
            return new MakeFolderStep(place, "");
        }
        return new MakeFileStep(place, "as it was in the backup", origin, entry.Bytes);
    }

    private static BackupContent? Origin(BackupEntry entry, FolderStore vault)
    {
        var path = vault.PathOf(VaultNames.Of(entry.Hash));
        return FileFacts.OfName(path) is { IsRegular: true } facts && facts.Bytes == entry.Bytes
            ? new BackupContent(path, new FileState(facts.Bytes, facts.ModifiedUtc), entry.Hash.ToString(), entry.Path, entry.ModifiedUtc, entry.Mode)
            : null;
    }

    private static Fault Lost(BackupEntry entry, FolderStore vault)
    {
        var path = vault.PathOf(VaultNames.Of(entry.Hash));
        return new Fault(FileFacts.OfName(path) is null ? FaultCode.BackupContentMissing : FaultCode.BackupContentDamaged) { Path = path, Name = entry.Path };
    }

    private static IEnumerable<string> WithThoseAbove(string folder)
    {
        for (var at = folder; !string.IsNullOrEmpty(at); at = Path.GetDirectoryName(at))
        {
            yield return at;
        }
    }

    private static IEnumerable<string> Silent(string url, SessionInventory inventory)
    {
        var meant = MediaUrl.Candidates(url, inventory.Folder);
        return meant.Count == 0 || meant.Any(File.Exists) ? [] : [Path.GetFileName(meant[0])];
    }

    private static Plan Make(Guid sessionId, string sentence, ImmutableArray<string> roots, ImmutableArray<PlanStep> steps, IEnumerable<Fault> remarks, IEnumerable<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Restore,
        SessionId = sessionId,
        Sentence = sentence,
        WritableRoots = roots,
        Steps = steps,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };
}
