using System.IO.Compression;
using System.IO.Hashing;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Bundles;

/// <summary>A bag in a ZIP file, of which it is remembered what went in.</summary>
/// <param name="stream">Gets the file; one can go back in it to what was written.</param>
/// <param name="bagName">Name of the bag's own folder in it.</param>
internal sealed class ZipBag(Stream stream, string bagName) : IBagTarget
{
    private const int BufferBytes = 1024 * 1024;
    private const int RegularFile = 0x8000;
    private const int NewFileMode = 0x1A4;         // rw-r--r--
    private const int FolderMode = 0x4000 | 0x1ED; // a folder, rwxr-xr-x

    private readonly ZipWriter _zip = new(stream);
    private readonly List<Packed> _packed = [];

    /// <summary>What went into the file under a name.</summary>
    private readonly record struct Packed(string Name, long Bytes, UInt128 Hash);

    public void AddFile(string path, KeptMarks marks, bool compress, long mostBytes, Action<Stream> write)
    {
        var name = $"{bagName}/{path}";
        var (bytes, hash) = _zip.Add(name, marks.ModifiedUtc ?? DateTime.UnixEpoch, RegularFile | (marks.Mode ?? NewFileMode), compress, mostBytes, write);
        _packed.Add(new Packed(name, bytes, hash));
    }

    public void AddFolder(string path, DateTime modifiedUtc)
    {
        var name = $"{bagName}/{path}/";
        _zip.Add(name, modifiedUtc, FolderMode, compress: false, 0, _ => { });
        _packed.Add(new Packed(name, 0, XxHash128.HashToUInt128([])));
    }

    public void Finish() => _zip.Finish();

    /// <summary>
    /// Reads the file back as anybody would: each entry must have its name, its bytes and its CRC. The library's own reader
    /// checks no CRC, so it is reckoned here.
    /// </summary>
    /// <exception cref="FaultException">It is not what went in.</exception>
    public void Compare(Stream written, string path, CancellationToken cancel)
    {
        try
        {
            using var archive = new ZipArchive(written, ZipArchiveMode.Read);
            if (archive.Entries.Count != _packed.Count)
            {
                throw new FaultException(FaultCode.ReadBackDiffers, path);
            }
            var buffer = new byte[BufferBytes];
            foreach (var (entry, expected) in archive.Entries.Zip(_packed))
            {
                var (hash, crc, bytes) = (new XxHash128(), new Crc32(), 0L);
                using var stream = entry.Open();
                for (int count; (count = stream.Read(buffer)) > 0; bytes += count)
                {
                    cancel.ThrowIfCancellationRequested();
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
}
