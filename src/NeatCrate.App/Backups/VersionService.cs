using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What a version is.</summary>
public enum VersionKind
{
    /// <summary>A state of a document.</summary>
    Document,

    /// <summary>A full backup.</summary>
    Full,
}

/// <summary>A version of a session: a kept state of a document, or a full backup.</summary>
/// <param name="Key">What it is known by.</param>
/// <param name="Kind">Which of the two.</param>
/// <param name="Saved">When it is from, in local time.</param>
/// <param name="Document">File name of its document; null where it has none.</param>
/// <param name="State">The kept state, where it is one.</param>
/// <param name="Full">The full backup, where it is one.</param>
public sealed record SessionVersion(string Key, VersionKind Kind, DateTime Saved, string? Document, PlacedState? State, VaultBackup? Full);

/// <summary>The versions of sessions: what each holds, and how two of them differ.</summary>
public sealed class VersionService(DocumentPlaces places, VaultService vaults, SessionService sessions, ShelfService shelves)
{
    // Whoever asks when a file was last used reads all versions; each is read once.
    private const int MostRead = 2_000;

    private readonly ConcurrentDictionary<(Guid Session, string Key, string Folder, ulong Names), VersionFiles> _read = new();

    /// <summary>All versions of a session that are known, the newest first.</summary>
    public ImmutableArray<SessionVersion> Of(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        var states = places.StatesOf(session).States.Select(s => new SessionVersion("document/" + s.Kept.Name, VersionKind.Document, s.Kept.Saved, s.Kept.Document, s, null));
        var fulls = vaults.Of(session).Select(b => new SessionVersion(
            $"full/{b.Shelf.Id}/{b.Backup.Name}", VersionKind.Full, b.Backup.Header!.Made.ToLocalTime(), b.Backup.Header.Document is { } d ? Path.GetFileName(d) : null, null, b));
        // Of saves of one second the kept ones stand in the order in which they were kept; no name tells it by its letters.
        return [.. states.Concat(fulls.OrderBy(f => f.Key, StringComparer.Ordinal)).OrderBy(v => v.Saved).Reverse()];
    }

    /// <summary>One version.</summary>
    /// <exception cref="FaultException">It is not there any more (<see cref="FaultCode.VersionGone"/>).</exception>
    public SessionVersion Get(SessionRow session, string key) => Of(session).FirstOrDefault(v => v.Key == key) ?? throw new FaultException(new Fault(FaultCode.VersionGone) { Name = key[(key.LastIndexOf('/') + 1)..] });

    /// <summary>All that a full backup holds.</summary>
    /// <exception cref="FaultException">It is none, or not there any more.</exception>
    public BackupManifest ManifestOf(SessionVersion version)
    {
        ArgumentNullException.ThrowIfNull(version);
        return version.Full is { } full ? vaults.Remembered(full.Shelf.Id).Manifest(full.Backup.Name) : throw new FaultException(new Fault(FaultCode.RequestSenseless) { Detail = "Only a full backup holds files." });
    }

    /// <summary>The vault that a full backup is in, while it is there.</summary>
    /// <exception cref="FaultException">It is away.</exception>
    public IObjectStore StoreOf(SessionVersion version)
    {
        ArgumentNullException.ThrowIfNull(version);
        return vaults.Of(version.Full!.Shelf).Store;
    }

    /// <summary>The document of a version, to be brought back.</summary>
    /// <exception cref="FaultException">It is not there any more, or its drive is away.</exception>
    public DocumentVersion DocumentOf(SessionVersion version)
    {
        ArgumentNullException.ThrowIfNull(version);
        if (version.State is { } state)
        {
            var path = state.Path;
            var facts = FileState.Of(path);
            return new DocumentVersion(new WholeFile(path, facts), facts.Bytes, state.Kept.Document, state.Kept.Saved) { Content = BytesOf(version) };
        }
        return RestorePlanner.VersionIn(ManifestOf(version), EntryOf(version), StoreOf(version)) with { Content = BytesOf(version) };
    }

    /// <summary>The bytes of a version's document.</summary>
    /// <exception cref="FaultException">It is not there any more, is damaged, or its drive is away.</exception>
    public byte[] BytesOf(SessionVersion version)
    {
        ArgumentNullException.ThrowIfNull(version);
        if (version.State is { } state)
        {
            return state.Read();
        }
        var (entry, store) = (EntryOf(version), StoreOf(version));
        var bytes = store.Read(VaultNames.Of(entry.Hash));
        return ContentHash.Of(bytes) == entry.Hash ? bytes : throw new FaultException(new Fault(FaultCode.BackupContentDamaged) { Path = $"{store.Place}/{VaultNames.Of(entry.Hash)}", Name = entry.Path });
    }

    /// <summary>When a file was last used, and last there, over versions.</summary>
    /// <param name="session">The session.</param>
    /// <param name="asked">The versions that are asked.</param>
    /// <param name="path">Absolute path of the file.</param>
    public FileHistory HistoryOf(SessionRow session, ImmutableArray<SessionVersion> asked, string path)
    {
        ArgumentNullException.ThrowIfNull(session);
        var names = NamesOf(session, asked);
        return FileHistory.Of(path, asked.Select(v => FilesOf(session, v, names)));
    }

    /// <summary>The same for all files that a version plays or holds under a name, also those that the session does not know any more.</summary>
    /// <param name="session">The session.</param>
    /// <param name="asked">The versions that are asked.</param>
    /// <param name="text">Parts of the name.</param>
    /// <param name="most">How many are told at most.</param>
    /// <returns>How many there are, and the first of them.</returns>
    public (int Total, ImmutableArray<(string Path, FileHistory History)> Files) Named(SessionRow session, ImmutableArray<SessionVersion> asked, string text, int most)
    {
        ArgumentNullException.ThrowIfNull(session);
        var names = NamesOf(session, asked);
        var versions = asked.Select(v => FilesOf(session, v, names)).ToList();
        var paths = FileHistory.Named(text, versions);
        var told = paths.Take(most).ToImmutableArray();
        return (paths.Length, [.. told.Zip(FileHistory.Of(told, versions))]);
    }

    /// <summary>The kept saves of a session's documents, the newest first.</summary>
    public ImmutableArray<SessionVersion> SavesOf(SessionRow session) => [.. Of(session).Where(v => v.Kind == VersionKind.Document)];

    /// <summary>When saves were made whose documents play a file, by its absolute path, the newest first; for whoever wants to let it go.</summary>
    /// <param name="session">The session.</param>
    /// <param name="saves">Its kept saves.</param>
    /// <param name="told">Hears, before each save that has to be read, how many are dealt with; null for nobody.</param>
    /// <param name="cancel">Stops between two saves; what was read stays known.</param>
    public ILookup<string, DateTime> UsesIn(SessionRow session, ImmutableArray<SessionVersion> saves, Action<int>? told, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(session);
        var (uses, names) = (new List<(string Path, DateTime Saved)>(), NamesOf(session, saves));
        foreach (var (read, version) in saves.Index())
        {
            cancel.ThrowIfCancellationRequested();
            if (!_read.ContainsKey(KeyOf(session, version, names)))
            {
                told?.Invoke(read);
            }
            uses.AddRange((FilesOf(session, version, names).Uses ?? new HashSet<string>()).Select(p => (p, version.Saved)));
        }
        return uses.ToLookup(u => u.Path, u => u.Saved, StringComparer.Ordinal);
    }

    /// <summary>What names in versions of a session mean as it is now; null where none of them is only known by names, or the session cannot be looked at.</summary>
    private NamedFiles? NamesOf(SessionRow session, ImmutableArray<SessionVersion> asked)
    {
        if (!asked.Any(IsByNames))
        {
            return null;
        }
        try
        {
            var known = shelves.All();
            return new NamedFiles(sessions.Glance(session, known, CancellationToken.None), known);
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            // Its drive is away: of documents that are only known by names nothing is told then.
            return null;
        }
    }

    /// <summary>What a version names depends on what files there are to be named; what one plays does not.</summary>
    private static (Guid Session, string Key, string Folder, ulong Names) KeyOf(SessionRow session, SessionVersion version, NamedFiles? names) =>
        (session.Id, version.Key, session.Folder, names is not null && version.State is not null && IsByNames(version) ? names.Fingerprint : 0);

    /// <summary>True where a version's document is of another program, so that only what it names is known.</summary>
    public static bool IsByNames(SessionVersion version) => version?.Document is { } document && DocumentFormats.Of(document) is null;

    /// <summary>The files that a version names or plays; null where its document cannot be read so.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="version">The version.</param>
    /// <param name="names">What names mean in that session; null where that is not known.</param>
    /// <exception cref="FaultException">It is not there any more, is damaged, or its drive is away.</exception>
    public IReadOnlySet<string>? UsesOf(string folder, SessionVersion version, NamedFiles? names) => UsesOf(folder, version, names, IsByNames(version) ? HeldBy(folder, version) : null);

    private IReadOnlySet<string>? UsesOf(string folder, SessionVersion version, NamedFiles? names, IReadOnlySet<string>? held) =>
        IsByNames(version) ? names?.In(BytesOf(version), held) : VersionComparison.Used(DocumentFormats.Read<IMediaPointers>(version.Document ?? "", BytesOf(version)), folder);

    private HashSet<string>? HeldBy(string folder, SessionVersion version) =>
        version.Full is null ? null : ManifestOf(version).Entries.Select(e => e.Outside ?? Path.Combine(folder, e.Path)).ToHashSet(StringComparer.Ordinal);

    private VersionFiles FilesOf(SessionRow session, SessionVersion version, NamedFiles? names)
    {
        var key = KeyOf(session, version, names);
        if (_read.TryGetValue(key, out var known))
        {
            return known;
        }
        if (_read.Count > MostRead)
        {
            _read.Clear();
        }
        var holds = HeldBy(session.Folder, version);
        if (names is null && IsByNames(version))
        {
            // Asked again once the session can be looked at.
            return new VersionFiles(version.Key, version.Saved, null, holds) { IsByNames = true };
        }
        try
        {
            return _read[key] = new VersionFiles(key.Key, version.Saved, UsesOf(session.Folder, version, names, holds), holds) { IsByNames = IsByNames(version) };
        }
        catch (FaultException e) when (e is UnreadableDocumentException)
        {
            // Of a format that nobody reads: it stays so.
            return _read[key] = new VersionFiles(key.Key, version.Saved, null, holds);
        }
        catch (FaultException)
        {
            // Away, or damaged: asked again the next time.
            return new VersionFiles(key.Key, version.Saved, null, holds);
        }
    }

    private BackupEntry EntryOf(SessionVersion version)
    {
        var manifest = ManifestOf(version);
        return manifest.Header.Document is { } document && manifest.Entries.FirstOrDefault(e => e.Path == document) is { } entry ? entry : throw new FaultException(new Fault(FaultCode.NoDocument) { Path = version.Key });
    }
}
