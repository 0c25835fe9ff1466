using System.IO.Compression;
using System.Text;

namespace NeatCrate.Core.Vault;

/// <summary>A bundle as a source: a ZIP file with a BagIt bag (RFC 8493), whose manifest names the SHA-512 of each file.</summary>
/// <param name="path">Absolute path of the bundle.</param>
/// <param name="files">The durable layer.</param>
public sealed class BagSource(string path, IDurableFiles files) : IHealingSource
{
    private const string ManifestName = "manifest-sha512.txt";
    private const int MostManifestBytes = 256 * 1024 * 1024;

    private readonly Lazy<Dictionary<ContentHash, string>> _entries = new(() => Read(path, files));

    /// <inheritdoc/>
    public string Name => $"the bundle '{Path.GetFileName(path)}'";

    /// <inheritdoc/>
    public Stream? Open(ContentHash hash, long bytes)
    {
        if (!_entries.Value.TryGetValue(hash, out var name))
        {
            return null;
        }
        var archive = Archive(path, files);
        try
        {
            return new EntryStream(archive, archive.Entries.First(e => e.FullName == name).Open());
        }
        catch
        {
            archive.Dispose();
            throw;
        }
    }

    /// <inheritdoc/>
    public byte[]? Manifest(string name) => null;

    private static ZipArchive Archive(string path, IDurableFiles files)
    {
        var file = files.OpenSource(path);
        try
        {
            return new ZipArchive(new SourceStream(file, path, file.Facts.Bytes, ownsFile: true), ZipArchiveMode.Read);
        }
        catch (InvalidDataException e)
        {
            file.Dispose();
            throw new FaultException(FaultCode.SourceUnreadable, path, e);
        }
    }

    /// <summary>What the bag's manifest names: each line a SHA-512 and a path from the bag's folder.</summary>
    private static Dictionary<ContentHash, string> Read(string path, IDurableFiles files)
    {
        var entries = new Dictionary<ContentHash, string>();
        try
        {
            using var archive = Archive(path, files);
            if (archive.Entries.FirstOrDefault(e => e.Name == ManifestName && e.FullName.Count(c => c == '/') == 1 && e.Length < MostManifestBytes) is not { } manifest)
            {
                return entries;
            }
            var bag = manifest.FullName[..^ManifestName.Length];
            using var reader = new StreamReader(manifest.Open(), Encoding.UTF8);
            while (reader.ReadLine() is { } line)
            {
                if (line.Length > ContentHash.Digits && ContentHash.TryParse(line.AsSpan(0, ContentHash.Digits), out var hash))
                {
                    entries[hash] = bag + line[ContentHash.Digits..].TrimStart();
                }
            }
            return entries;
        }
        catch (Exception e) when (e is InvalidDataException or FaultException)
        {
            // A file that is no bundle, or cannot be read, has nothing to heal from.
            return entries;
        }
    }

    /// <summary>An entry that closes its archive with it.</summary>
    private sealed class EntryStream(ZipArchive archive, Stream entry) : Stream
    {
        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position
        {
            get => throw new NotSupportedException();
            set => throw new NotSupportedException();
        }

        public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

        public override int Read(Span<byte> buffer)
        {
            try
            {
                return entry.Read(buffer);
            }
            catch (InvalidDataException e)
            {
                throw new FaultException(FaultCode.SourceUnreadable, null, e);
            }
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void Flush()
        {
        }

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        protected override void Dispose(bool disposing)
        {
            entry.Dispose();
            archive.Dispose();
            base.Dispose(disposing);
        }
    }
}
