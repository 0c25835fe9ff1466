using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Diagnostics;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Bench;

/// <summary>Full backups of 2 GB beside cp with sha512sum and beside restic (Debian's package), their check and restore, and the list of a vault of many backups.</summary>
internal static class VaultBench
{
    private const int Files = 200;
    private const int FileBytes = 10_000_000;
    private const int ManyBackups = 1_000;
    private const int FilesInEach = 50;

    private static readonly DurableFiles Disk = new();

    public static void Run(string folder)
    {
        var source = Path.Combine(folder, "261019 Fog Signal");
        var random = new Random(1);
        for (var n = 0; n < Files; n++)
        {
            Take(source, n, random);
        }
        var notes = new Notes();
        var vault = new BackupVault(new FolderStore(Path.Combine(folder, "vault"), Disk));
        var first = Figures.Seconds(() => BackUp(vault, source, notes));
        var copy = Figures.Seconds(() =>
        {
            Tool.Run("cp", "-r", "--", source, Path.Combine(folder, "copy"));
            Tool.Run("bash", "-c", "cd \"$1\" && find . -type f -print0 | xargs -0 sha512sum > ../copy.sha512", "sum", source);
        });
        var restic = Figures.Seconds(() => Restic(folder, "backup", source));
        Figures.Row("first full backup of 2 GB, flushed, read back and compared", first, "cp -r and sha512sum", copy, "at most 1.0");
        Figures.Row("the same", first, "restic backup", restic, "at most 1.0");
        var before = Held(folder, "vault");
        Take(source, Files, random);
        var second = Figures.Seconds(() => BackUp(vault, source, notes));
        Console.WriteLine($"bytes written by the second one with one new take: {(double)(Held(folder, "vault") - before) / FileBytes:0.000} of the take (goal: at most 1.02)");
        Figures.Row("second full backup with one new take", second, "the first", first, "at most 0.05");
        Figures.Row("the same", second, "restic backup", Figures.Seconds(() => Restic(folder, "backup", source)), "");
        var sums = Figures.Fastest(2, () => Tool.Run("bash", "-c", "find \"$1\" -type f -print0 | xargs -0 sha512sum > /dev/null", "sum", source));
        Figures.Row("check of 2 GB by content", Figures.Fastest(2, () => VaultCheck.Run(vault, null, null, long.MaxValue, null, CancellationToken.None)), "sha512sum", sums, "");
        Restore(folder, vault);
        Many(Path.Combine(folder, "many"));
    }

    private static void Take(string source, int n, Random random)
    {
        var path = Path.Combine(source, "Audio", $"Voice {n:000}.wav");
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var bytes = new byte[FileBytes];
        random.NextBytes(bytes);
        File.WriteAllBytes(path, bytes);
    }

    private static BackupResult BackUp(BackupVault vault, string source, Notes notes, bool onlyIfChanged = false) => new BackupWriter(vault, Disk, notes).Write(
        new BackupRequest(
            Guid.Empty, Path.GetFileName(source), [.. Directory.EnumerateFiles(source, "*", SearchOption.AllDirectories).Order(StringComparer.Ordinal).Select(f => new BackupSource(f, Path.GetRelativePath(source, f)))], [],
            DateTime.UtcNow, DateTime.Now)
        {
            OnlyIfChanged = onlyIfChanged,
        },
        null, CancellationToken.None);

    private static void Restic(string folder, string command, string source) => Tool.Run(
        "bash", "-c", "export RESTIC_PASSWORD=none RESTIC_CACHE_DIR=\"$1/cache\"; test -d \"$1/restic\" || restic -q init -r \"$1/restic\"; restic -q -r \"$1/restic\" \"$2\" \"$3\"", "restic", folder, command, source);

    private static void Restore(string folder, BackupVault vault)
    {
        var manifest = vault.Manifest(vault.Backups()[0].Name);
        var ours = Figures.Seconds(() =>
        {
            // What the restore of a session does for each file, in one thread: copy, flush, read back, compare, and hold to the SHA-512.
            var store = new FolderStore(Path.Combine(folder, "restored"), Disk);
            foreach (var entry in manifest.Entries)
            {
                using var from = vault.Store.Open(VaultNames.Of(entry.Hash));
                using var hash = System.Security.Cryptography.IncrementalHash.CreateHash(System.Security.Cryptography.HashAlgorithmName.SHA512);
                using var to = store.Begin(entry.Bytes);
                var buffer = new byte[1 << 20];
                for (int count; (count = from.Read(buffer)) > 0;)
                {
                    hash.AppendData(buffer, 0, count);
                    to.Write(buffer.AsSpan(0, count));
                }
                if (ContentHash.Take(hash) != entry.Hash)
                {
                    throw new InvalidOperationException("It came back as something else.");
                }
                to.Keep(entry.Path);
            }
            store.Flush();
        });
        var (copy, again) = (Path.Combine(folder, "copy"), Path.Combine(folder, "copy again"));
        Figures.Row("restore of 2 GB, flushed, read back and compared", ours, "cp -r", Figures.Seconds(() => Tool.Run("cp", "-r", "--", copy, again)), "");
        Directory.Delete(again, recursive: true);
        // dd(1) with nocache and nothing to copy drops a file from the cache, so that cmp(1) reads what is on disk.
        var verified = Figures.Seconds(() => Tool.Run(
            "bash", "-c", "cp -r -- \"$1\" \"$2\" && sync -f \"$2\" && cd \"$1\" && find . -type f | while read -r f; do dd if=\"$2/$f\" iflag=nocache count=0 status=none; cmp -- \"$f\" \"$2/$f\" || exit 1; done", "copy", copy, again));
        Figures.Row("the same", ours, "cp -r, flushed, and cmp", verified, "at most 1.1");
    }

    /// <summary>A vault of 1,000 backups and 50,000 files.</summary>
    private static void Many(string folder)
    {
        var vault = new BackupVault(new FolderStore(Directory.CreateDirectory(folder).FullName, Disk));
        var (made, number) = (new DateTime(2026, 1, 1, 0, 0, 0, DateTimeKind.Utc), 0L);
        for (var n = 0; n < ManyBackups; n++)
        {
            var entries = Enumerable.Range(0, FilesInEach).Select(f =>
            {
                var bytes = BitConverter.GetBytes(number++);
                var entry = new BackupEntry($"Audio/Voice {f:00}.wav", ContentHash.Of(bytes), bytes.Length, made, 420);
                var path = Path.Combine(folder, VaultNames.Of(entry.Hash));
                Directory.CreateDirectory(Path.GetDirectoryName(path)!);
                File.WriteAllBytes(path, bytes);
                return entry;
            }).ToImmutableArray();
            var header = new BackupHeader { Session = Guid.Empty, Folder = "261019 Fog Signal", Made = made.AddHours(n), Files = FilesInEach, Bytes = FilesInEach * sizeof(long), NewBytes = 0 };
            var manifest = Path.Combine(folder, VaultNames.Manifest(header.Folder, BackupVault.Stamp(header.Made)));
            Directory.CreateDirectory(Path.GetDirectoryName(manifest)!);
            File.WriteAllBytes(manifest, new BackupManifest(header, entries, []).ToUtf8());
        }
        Figures.Row($"list of a vault with {ManyBackups:N0} backups and {number:N0} files", Figures.Fastest(3, () => _ = vault.Backups().Length), "", null, "at most 0.200 s");
        var (session, notes) = (Path.Combine(folder, "..", "261019 Fog Signal"), new Notes());
        BackUp(vault, session, notes);
        Figures.Row("backup of 2 GB with nothing changed into it", Figures.Fastest(3, () => BackUp(vault, session, notes, onlyIfChanged: true)), "", null, "at most 0.200 s");
        using var process = Process.GetCurrentProcess();
        GC.Collect();
        var before = GC.GetTotalMemory(true);
        var listed = vault.Backups();
        Console.WriteLine($"held for the list: {(GC.GetTotalMemory(true) - before) / 1e6:0.0} MB of {listed.Length} backups; the whole process: {process.WorkingSet64 / 1e6:0} MB (goal: at most 200 MB)");
        Figures.Row("sweep of the same, which reads every manifest", Figures.Seconds(() => VaultSweep.Run(vault, [], null, null, CancellationToken.None)), "", null, "");
        process.Refresh();
        Console.WriteLine($"after the sweep the whole process holds {process.WorkingSet64 / 1e6:0} MB");
    }

    private static long Held(string folder, string name) => new DirectoryInfo(Path.Combine(folder, name)).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);

    private sealed class Notes : IContentMemory
    {
        private readonly ConcurrentDictionary<string, (FileFacts Facts, ContentHash Hash)> _notes = new(StringComparer.Ordinal);

        public ContentHash? Known(string path, FileFacts facts) => _notes.TryGetValue(path, out var noted) && noted.Facts == facts ? noted.Hash : null;

        public void Note(string path, FileFacts facts, ContentHash hash) => _notes[path] = (facts, hash);
    }
}
