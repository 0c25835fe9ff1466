using System.Buffers;
using System.IO.Compression;
using System.IO.Hashing;
using System.Security.Cryptography;
using Microsoft.Win32.SafeHandles;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// The work of a <see cref="PackBundleStep"/>: writes a ZIP file that holds a BagIt bag, then reads all of it back and
/// compares it with what went in, before it gets its name.
/// </summary>
internal sealed class PackBundleWork : NewFileWork
{
    private const int BufferBytes = 1024 * 1024;
    private const int FileAttributes = (0x8000 | 0x1A4) << 16;   // a regular file, rw-r--r--
    private const int FolderAttributes = (0x4000 | 0x1ED) << 16; // a folder, rwxr-xr-x

    /// <inheritdoc/>
    public override IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var sources = ((PackBundleStep)step).Contents.Entries.Where(e => e.Source is not null);
        return base.Refusals(step, vacated).Concat(sources.SelectMany(e => FileTransfer.SourceRefusals(e.Source!, e.Expected!)));
    }

    /// <inheritdoc/>
    protected override void Stage(PlanStep step, string temporary, StepContext context)
    {
        var contents = ((PackBundleStep)step).Contents;
        List<Packed> packed;
        using (var handle = FileTransfer.CreateNew(temporary, 0))
        {
            using (var stream = new FileStream(handle, FileAccess.ReadWrite, BufferBytes))
            {
                packed = Write(stream, contents, context);
                stream.Flush();
                RandomAccess.FlushToDisk(handle);
                FileCalls.DropCached(handle);
            }
        }
        context.Staged(Compare(temporary, packed, context));
    }

    /// <summary>What went into the file under a name.</summary>
    private readonly record struct Packed(string Name, long Bytes, UInt128 Hash);

    private static List<Packed> Write(Stream stream, BundleContents contents, StepContext context)
    {
        using var writer = new BagWriter(stream, contents, context);
        var tags = new List<(string Path, byte[] Sha512)> { writer.AddTag("bagit.txt", BagTags.Declaration) };
        var payload = new List<(string Path, byte[] Sha512)>();
        foreach (var folder in contents.EmptyFolders)
        {
            writer.AddFolder("data/" + folder + "/");
        }
        foreach (var entry in contents.Entries)
        {
            context.Cancel.ThrowIfCancellationRequested();
            payload.Add(entry.Content is { } content
                ? writer.AddTag("data/" + entry.PayloadPath, content)
                : writer.AddFile("data/" + entry.PayloadPath, entry));
        }
        tags.Add(writer.AddTag(BagTags.ManifestName, BagTags.Manifest(payload)));
        tags.Add(writer.AddTag("bag-info.txt", BagTags.Info(contents.Info, contents.Entries.Sum(e => e.Bytes), contents.Entries.Length)));
        tags.Add(writer.AddTag("packing-slip.txt", contents.SlipText));
        tags.Add(writer.AddTag("packing-slip.json", contents.SlipJson));
        writer.AddTag(BagTags.TagManifestName, BagTags.Manifest(tags));
        return writer.Packed;
    }

    /// <summary>
    /// Reads the file back: each entry must have its name, its bytes and its CRC. The library's own reader checks no CRC,
    /// so it is reckoned here.
    /// </summary>
    private static ByteIdentity Compare(string path, List<Packed> packed, StepContext context)
    {
        using (var archive = ZipFile.OpenRead(path))
        {
            if (archive.Entries.Count != packed.Count)
            {
                throw new IOException("The bundle that was read back holds another number of files than were packed.");
            }
            var buffer = new byte[BufferBytes];
            for (var i = 0; i < packed.Count; i++)
            {
                var (entry, expected) = (archive.Entries[i], packed[i]);
                var hash = new XxHash128();
                var crc = new Crc32();
                using var stream = entry.Open();
                int count;
                var bytes = 0L;
                while ((count = stream.Read(buffer)) > 0)
                {
                    context.Cancel.ThrowIfCancellationRequested();
                    hash.Append(buffer.AsSpan(0, count));
                    crc.Append(buffer.AsSpan(0, count));
                    bytes += count;
                    context.Worked(count);
                }
                if (entry.FullName != expected.Name || bytes != expected.Bytes || hash.GetCurrentHashAsUInt128() != expected.Hash
                    || crc.GetCurrentHashAsUInt32() != entry.Crc32)
                {
                    throw new IOException($"'{expected.Name}' was read back from the bundle differently from how it was packed. The drive may be failing.");
                }
            }
        }
        return ByteIdentity.OfFile(path, cancel: context.Cancel);
    }

    /// <summary>Puts entries into the ZIP file and keeps count of what went in.</summary>
    private sealed class BagWriter(Stream stream, BundleContents contents, StepContext context) : IDisposable
    {
        private readonly ZipArchive _archive = new(stream, ZipArchiveMode.Create, leaveOpen: true);

        /// <summary>What went in, in file order.</summary>
        public List<Packed> Packed { get; } = [];

        public (string Path, byte[] Sha512) AddTag(string path, byte[] content)
        {
            var entry = NewEntry(path, CompressionLevel.Optimal, contents.PackedAt, FileAttributes);
            using (var to = entry.Open())
            {
                to.Write(content);
            }
            context.Worked(content.Length);
            Packed.Add(new Packed(entry.FullName, content.Length, XxHash128.HashToUInt128(content)));
            return (path, SHA512.HashData(content));
        }

        public (string Path, byte[] Sha512) AddFile(string path, BundleEntry source)
        {
            // Sound hardly gets smaller by this; other files do, and cost no time worth speaking of.
            var level = MediaFiles.KindOf(path) is null ? CompressionLevel.Optimal : CompressionLevel.NoCompression;
            var entry = NewEntry(path, level, new DateTimeOffset(source.Expected!.ChangedUtc).ToLocalTime(), FileAttributes);
            using var from = File.OpenHandle(source.Source!, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, FileOptions.SequentialScan);
            FileTransfer.RequireUnchanged(from, source.Source!, source.Expected);
            using var sha512 = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
            var hash = new XxHash128();
            var bytes = CopyOut(from, entry, sha512, hash);
            FileTransfer.RequireUnchanged(from, source.Source!, source.Expected);
            Packed.Add(new Packed(entry.FullName, bytes, hash.GetCurrentHashAsUInt128()));
            return (path, sha512.GetHashAndReset());
        }

        public void AddFolder(string path)
        {
            var entry = NewEntry(path, CompressionLevel.NoCompression, contents.PackedAt, FolderAttributes);
            Packed.Add(new Packed(entry.FullName, 0, XxHash128.HashToUInt128([])));
        }

        public void Dispose() => _archive.Dispose();

        private long CopyOut(SafeFileHandle from, ZipArchiveEntry entry, IncrementalHash sha512, XxHash128 hash)
        {
            var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
            try
            {
                using var to = entry.Open();
                var offset = 0L;
                int count;
                while ((count = RandomAccess.Read(from, buffer.AsSpan(0, BufferBytes), offset)) > 0)
                {
                    context.Cancel.ThrowIfCancellationRequested();
                    var block = buffer.AsSpan(0, count);
                    sha512.AppendData(block);
                    hash.Append(block);
                    to.Write(block);
                    offset += count;
                    context.Worked(count);
                }
                return offset;
            }
            finally
            {
                ArrayPool<byte>.Shared.Return(buffer);
            }
        }

        private ZipArchiveEntry NewEntry(string path, CompressionLevel level, DateTimeOffset changed, int attributes)
        {
            var entry = _archive.CreateEntry(contents.BagName + "/" + path, level);
            entry.ExternalAttributes = attributes;
            // ZIP knows the years 1980 to 2107 only.
            entry.LastWriteTime = changed.Year is >= 1980 and <= 2107 ? changed : contents.PackedAt;
            return entry;
        }
    }
}
