using System.IO.Compression;
using System.IO.Hashing;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// Packs a bundle into one file: a ZIP file that holds a BagIt bag. All of it is read back and compared with what went in,
/// before it gets its name.
/// </summary>
/// <param name="Destination">The bundle.</param>
/// <param name="Reason">Why.</param>
/// <param name="Contents">What goes in.</param>
[StepKind("pack-bundle")]
public sealed record PackBundleStep(string Destination, string Reason, BundleContents Contents) : NewFileStep(Destination, Reason)
{
    private const int BufferBytes = 1024 * 1024;
    private const int FileMode = 0x8000 | 0x1A4;   // a regular file, rw-r--r--
    private const int FolderMode = 0x4000 | 0x1ED; // a folder, rwxr-xr-x

    /// <inheritdoc/>
    public override string Verb => "pack";

    /// <inheritdoc/>
    public override long WritesBytes => Contents.Bytes;

    /// <inheritdoc/>
    public override long ScratchBytes => Contents.Entries.Select(e => e.Origin is Transformed ? e.Bytes + e.Origin.ScratchBytes : e.Origin.ScratchBytes).DefaultIfEmpty().Max();

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Contents.Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Destination = path(Destination), Contents = Contents with { Entries = [.. Contents.Entries.Select(e => e with { Origin = e.Origin.Moved(path) })] } };
    }

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new RemoveCopyStep(Destination, "made by the plan; it can be packed again", WrittenBy(record), null);

    internal override IEnumerable<Fault> Refusals(StepCheck check) =>
        base.Refusals(check).Concat(Contents.Entries.SelectMany(e => e.Origin.Refusals(check.Reading)));

    internal override ByteIdentity Stage(string temporary, StepContext context)
    {
        List<Packed> packed;
        using var file = new StagedFile(context, temporary, 0, inOrder: false);
        packed = Write(file, context);
        var written = file.Finish(default);
        Compare(temporary, packed, context);
        return written;
    }

    /// <summary>What went into the file under a name.</summary>
    private readonly record struct Packed(string Name, long Bytes, UInt128 Hash);

    private List<Packed> Write(StagedFile file, StepContext context)
    {
        var writer = new BagWriter(file, Contents, context);
        var tags = new List<(string Path, ContentHash Sha512)> { writer.AddTag("bagit.txt", BagTags.Declaration) };
        var payload = new List<(string Path, ContentHash Sha512)>();
        foreach (var folder in Contents.EmptyFolders)
        {
            writer.AddFolder("data/" + folder + "/");
        }
        foreach (var entry in Contents.Entries)
        {
            context.Cancel.ThrowIfCancellationRequested();
            payload.Add(writer.AddFile("data/" + entry.PayloadPath, entry));
        }
        tags.Add(writer.AddTag(BagTags.ManifestName, BagTags.Manifest(payload)));
        tags.Add(writer.AddTag("bag-info.txt", BagTags.Info(Contents.Info, Contents.Entries.Sum(e => e.Bytes), Contents.Entries.Length)));
        tags.Add(writer.AddTag("packing-slip.txt", Contents.SlipText));
        tags.Add(writer.AddTag("packing-slip.json", Contents.SlipJson));
        if (Contents.SlipHtml is { } page)
        {
            tags.Add(writer.AddTag("packing-slip.html", page));
        }
        writer.AddTag(BagTags.TagManifestName, BagTags.Manifest(tags));
        writer.Finish();
        return writer.Packed;
    }

    /// <summary>
    /// Reads the file back as anybody would: each entry must have its name, its bytes and its CRC. The library's own reader
    /// checks no CRC, so it is reckoned here.
    /// </summary>
    private static void Compare(string path, List<Packed> packed, StepContext context)
    {
        using var source = context.Files.OpenSource(path);
        try
        {
            using var archive = new ZipArchive(new SourceStream(source, path, source.Facts.Bytes), ZipArchiveMode.Read);
            if (archive.Entries.Count != packed.Count)
            {
                throw new FaultException(FaultCode.ReadBackDiffers, path);
            }
            var buffer = new byte[BufferBytes];
            foreach (var (entry, expected) in archive.Entries.Zip(packed))
            {
                var (hash, crc, bytes) = (new XxHash128(), new Crc32(), 0L);
                using var stream = entry.Open();
                for (int count; (count = stream.Read(buffer)) > 0; bytes += count)
                {
                    context.Cancel.ThrowIfCancellationRequested();
                    hash.Append(buffer.AsSpan(0, count));
                    crc.Append(buffer.AsSpan(0, count));
                }
                if (entry.FullName != expected.Name || bytes != expected.Bytes || hash.GetCurrentHashAsUInt128() != expected.Hash || crc.GetCurrentHashAsUInt32() != entry.Crc32)
                {
                    throw new FaultException(new Fault(FaultCode.ReadBackDiffers) { Path = path, Name = expected.Name });
                }
            }
        }
        catch (InvalidDataException e)
        {
            throw new FaultException(FaultCode.ReadBackDiffers, path, e);
        }
    }

    /// <summary>Puts entries into the ZIP file and keeps count of what went in.</summary>
    private sealed class BagWriter(StagedFile file, BundleContents contents, StepContext context)
    {
        private readonly ZipWriter _zip = new(file);

        /// <summary>What went in, in file order.</summary>
        public List<Packed> Packed { get; } = [];

        public (string Path, ContentHash Sha512) AddTag(string path, byte[] content)
        {
            var name = contents.BagName + "/" + path;
            _zip.Add(name, contents.PackedAt.UtcDateTime, FileMode, compress: true, content.Length, to => to.Write(content));
            Packed.Add(new Packed(name, content.Length, XxHash128.HashToUInt128(content)));
            return (path, ContentHash.Of(content));
        }

        public (string Path, ContentHash Sha512) AddFile(string path, BundleEntry entry)
        {
            var name = contents.BagName + "/" + path;
            var packed = Stream.Null;
            using var sink = new HashingSink(bytes => packed.Write(bytes), file.Scratch);
            // Sound hardly gets smaller by this; other files do, and cost no time worth speaking of.
            var compress = MediaFiles.KindOf(path) is null;
            _zip.Add(name, entry.Marks.ModifiedUtc ?? contents.PackedAt.UtcDateTime, entry.Marks.Mode is { } mode ? 0x8000 | mode : FileMode, compress, entry.Bytes, to =>
            {
                packed = to;
                entry.Origin.WriteTo(sink, context.Reading);
            });
            Packed.Add(new Packed(name, sink.Length, sink.Hash));
            return (path, sink.TakeSha512());
        }

        public void AddFolder(string path)
        {
            var name = contents.BagName + "/" + path;
            _zip.Add(name, contents.PackedAt.UtcDateTime, FolderMode, compress: false, 0, _ => { });
            Packed.Add(new Packed(name, 0, XxHash128.HashToUInt128([])));
        }

        public void Finish() => _zip.Finish();
    }
}
