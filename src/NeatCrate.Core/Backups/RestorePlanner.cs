using System.Collections.Immutable;
using NeatCrate.Core.Contents;
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
public sealed record DocumentVersion(FileOrigin Origin, long Bytes, string Document, DateTime Saved)
{
    /// <summary>Its bytes, by which it is told what of its sound is missing now; null where they are not at hand.</summary>
    public byte[]? Content { get; init; }
}

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
        if (SilentIn(version, inventory) is { Length: > 0 } silent)
        {
            remarks.Add(new Fault(FaultCode.VersionIsSilent) { Names = silent });
        }
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
        var bytes = ReadableFile.ReadAll(current.Path, DocumentFormats.MostBytes);
        var (then, now) = (DocumentFormats.Read<ITracks>(current.Path, version), DocumentFormats.Read<ITracks>(current.Path, bytes));
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
            refusals.Count > 0 ? [] : [new ReplaceDocumentStep(current.Path, $"with {ByteText.Count(brought.Count, "track")} of an earlier version", now.ToBytes(), ByteIdentity.Of(bytes))],
            missing.Count == 0 ? [] : [new Fault(FaultCode.VersionIsSilent) { Names = [.. missing.Order(StringComparer.Ordinal)] }],
            refusals);
    }

    /// <summary>Files out of a full backup, each to the place that it had. What is there as it was stays; another file in that place stays as well.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="backup">The backup.</param>
    /// <param name="vault">Its vault.</param>
    /// <param name="paths">Paths from the session folder.</param>
    /// <param name="holds">Whether a file holds a content now.</param>
    /// <param name="users">Tells who misses what comes back; null where nobody does.</param>
    public static Plan Files(Guid sessionId, SessionInventory inventory, BackupManifest backup, IObjectStore vault, IReadOnlyCollection<string> paths, Func<string, ContentHash, bool> holds, IFileUsers? users = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(backup);
        ArgumentNullException.ThrowIfNull(vault);
        using var reading = new OriginReading(new DurableFiles(), _ => vault);
        var back = new ReturnPlanner(new VaultContainer(backup, vault.Place).Read(), reading, holds).Files(inventory.Folder, paths, $"restored {BackupVault.Stamp(backup.Header.Made.ToLocalTime())}");
        var (count, bytes) = (back.Steps.OfType<MakeFileStep>().Count(), back.Steps.Sum(s => s.WritesBytes));
        return Make(
            sessionId,
            $"Bring {ByteText.Count(count, "file")} back, {ByteText.Of(bytes)}, from the backup of {backup.Header.Made.ToLocalTime():yyyy-MM-dd HH:mm}; nothing is replaced.",
            [inventory.Folder],
            [.. MissingNow.Noted(back.Steps, users)],
            back.Remarks,
            back.Refusals);
    }

    /// <summary>A whole session into an empty place, byte for byte, each file held to its SHA-512.</summary>
    /// <param name="backup">The backup.</param>
    /// <param name="vault">Its vault.</param>
    /// <param name="parent">Absolute path of the folder that the session folder comes into.</param>
    /// <param name="name">Name of the session folder.</param>
    /// <param name="sessions">Absolute paths of the known sessions' folders.</param>
    /// <param name="holds">Whether a file holds a content now; null to read it.</param>
    public static Plan Whole(BackupManifest backup, IObjectStore vault, string parent, string name, IEnumerable<string> sessions, Func<string, ContentHash, bool>? holds = null)
    {
        ArgumentNullException.ThrowIfNull(backup);
        ArgumentNullException.ThrowIfNull(vault);
        using var reading = new OriginReading(new DurableFiles(), _ => vault);
        var back = new ReturnPlanner(new VaultContainer(backup, vault.Place).Read(), reading, holds ?? ((path, hash) => ContentHash.OfFile(path) == hash)).Whole(parent, name, sessions);
        var files = back.Steps.OfType<MakeFileStep>().ToList();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.RestoreSession,
            Sentence = $"Bring '{name}' back into '{parent}' as it was on {backup.Header.Made.ToLocalTime():yyyy-MM-dd HH:mm}: {ByteText.Count(files.Count, "file")}, {ByteText.Of(files.Sum(f => f.Bytes))}, each checked.",
            WritableRoots = [parent],
            Steps = back.Steps,
            Remarks = back.Remarks,
            Refusals = back.Refusals,
        };
    }

    /// <summary>A version of a document that a full backup holds.</summary>
    /// <exception cref="FaultException">The vault lost its content.</exception>
    public static DocumentVersion VersionIn(BackupManifest backup, BackupEntry entry, IObjectStore vault)
    {
        ArgumentNullException.ThrowIfNull(entry);
        ArgumentNullException.ThrowIfNull(vault);
        using var reading = new OriginReading(new DurableFiles(), _ => vault);
        var origin = new VaultContainer(backup, vault.Place).Entry(entry).Origin;
        return origin.Refusals(reading).FirstOrDefault() is { } lost
            ? throw new FaultException(lost)
            : new DocumentVersion(origin, entry.Bytes, Path.GetFileName(entry.Path), entry.ModifiedUtc.ToLocalTime());
    }

    /// <summary>Names of the media that a version plays and that are not there now; none of one that nobody can read.</summary>
    private static ImmutableArray<string> SilentIn(DocumentVersion version, SessionInventory inventory)
    {
        if (version.Content is not { } content)
        {
            return [];
        }
        try
        {
            var played = DocumentFormats.Read<IMediaPointers>(version.Document, content).References.Where(r => r.Placed).Select(r => r.TargetUrl).Distinct(StringComparer.Ordinal);
            return [.. played.SelectMany(url => Silent(url, inventory)).Distinct(StringComparer.Ordinal).Order(StringComparer.Ordinal)];
        }
        catch (UnreadableDocumentException)
        {
            return [];
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
