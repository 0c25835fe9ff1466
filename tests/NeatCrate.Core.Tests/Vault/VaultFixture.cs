using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.Core.Healing;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Vault;

/// <summary>Remembers what files hold, as long as the system knows the same of them.</summary>
internal sealed class ContentNotes : IContentMemory
{
    private readonly ConcurrentDictionary<string, (FileFacts Facts, ContentHash Hash)> _notes = new(StringComparer.Ordinal);

    public int Asked { get; private set; }

    public ContentHash? Known(string path, FileFacts facts)
    {
        Asked++;
        return _notes.TryGetValue(path, out var noted) && noted.Facts == facts ? noted.Hash : null;
    }

    public void Note(string path, FileFacts facts, ContentHash hash) => _notes[path] = (facts, hash);
}

/// <summary>A folder of files and a vault beside it.</summary>
internal sealed class VaultFixture : IDisposable
{
    /// <summary>
    /// Restores a backup by hand: what docs/formats.md says for people without the program. Uses sha512sum (GNU coreutils) and cp
    /// alone; run in the vault's folder with the manifest and the new place.
    /// </summary>
    private const string ByHand =
        """
        set -e
        M=$1; P=$2
        sed -nE 's|^\\?(([0-9a-f]{2})[0-9a-f]{126})  .*|\1  content/\2/\1|p' "$M" | sha512sum -c --quiet
        grep -vE '^(#|\\)' "$M" | while IFS= read -r line; do
          h=${line%%  *}; f=${line#*  }; mkdir -p "$P/$(dirname "$f")"
          cp "content/${h%"${h#??}"}/$h" "$P/$f"
        done
        cp "$M" "$P.sha512"; cd "$P" && sha512sum -c --quiet "$P.sha512"
        """;

    private readonly TempFolder _temp = new();
    private DateTimeOffset _now = new(2026, 10, 17, 22, 0, 0, TimeSpan.Zero);

    public VaultFixture(IDurableFiles? files = null)
    {
        Folder = _temp.Folder("261017 Fog Signal");
        VaultFolder = Path.Combine(_temp.Folder("vault drive"), VaultNames.FolderName);
        Vault = Open(files);
    }

    public Guid Session { get; } = Guid.NewGuid();

    public string Root => _temp.Path;

    public string Folder { get; }

    public string VaultFolder { get; }

    public BackupVault Vault { get; }

    public ContentNotes Notes { get; } = new();

    public ImmutableArray<Healed> Heal(IReadOnlyList<VaultFinding> findings, IReadOnlyList<IHealingSource> sources, Func<string, IObjectStore>? stores = null)
    {
        using var reading = new OriginReading(new Files.QuickFiles(), stores, TestContext.Current.CancellationToken);
        return VaultHealing.Run(Vault, findings, sources, reading, null);
    }

    public BackupVault Open(IDurableFiles? files = null) => new(new FolderStore(VaultFolder, files ?? new Files.QuickFiles()));

    public string Put(string name, byte[] bytes)
    {
        var path = Path.Combine(Folder, name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.WriteAllBytes(path, bytes);
        return path;
    }

    public string Put(string name, int bytes, int seed)
    {
        var content = new byte[bytes];
        new Random(seed).NextBytes(content);
        return Put(name, content);
    }

    public BackupRequest Request(bool onlyIfChanged = false, bool byContent = false)
    {
        _now = _now.AddMinutes(7);
        return new BackupRequest(
            Session,
            Path.GetFileName(Folder),
            [.. Directory.EnumerateFiles(Folder, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Select(f => new BackupSource(f, Path.GetRelativePath(Folder, f)))],
            [.. Directory.EnumerateDirectories(Folder, "*", SearchOption.AllDirectories).Where(d => !Directory.EnumerateFileSystemEntries(d).Any()).Select(d => new BackupFolder(Path.GetRelativePath(Folder, d), null, null, true))],
            _now.UtcDateTime,
            _now.DateTime)
        {
            OnlyIfChanged = onlyIfChanged,
            ByContent = byContent,
        };
    }

    public BackupResult BackUp(BackupRequest? request = null, BackupVault? vault = null, IDurableFiles? files = null) =>
        new BackupWriter(vault ?? Vault, files ?? new Files.QuickFiles(), Notes).Write(request ?? Request(), null, TestContext.Current.CancellationToken);

    public VaultCheckResult Check(BackupVault? vault = null, BackupVault? remembered = null) => VaultCheck.Run(vault ?? Vault, remembered, null, long.MaxValue, null, TestContext.Current.CancellationToken);

    /// <summary>Takes a backup out by hand.</summary>
    public string RestoreByHand(string name)
    {
        var place = Path.Combine(_temp.Path, "by hand " + Guid.NewGuid().ToString("N"));
        Directory.CreateDirectory(place);
        Tool.RunIn(VaultFolder, "bash", "-c", ByHand, "by-hand", name, place);
        return place;
    }

    /// <summary>The bytes of all files of a folder.</summary>
    public static ImmutableSortedDictionary<string, string> Bytes(string folder) =>
        Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories).ToImmutableSortedDictionary(f => Path.GetRelativePath(folder, f), f => ContentHash.Of(File.ReadAllBytes(f)).ToString());

    /// <summary>The bytes of all files of a backup, as they can be read from the vault now; the content is hashed, not believed.</summary>
    public static ImmutableSortedDictionary<string, string> Bytes(BackupVault vault, string name) =>
        vault.Manifest(name).Entries.ToImmutableSortedDictionary(e => e.Path, e => ContentHash.Of(vault.Store.Read(VaultNames.Of(e.Hash))).ToString());

    public void Dispose() => _temp.Dispose();
}
