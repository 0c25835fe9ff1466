using System.IO.Compression;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>A ZIP archive that is open for reading, its directory read once. Not for several threads at once.</summary>
public sealed class OpenArchive : IDisposable
{
    // The record at the end that every ZIP file has (APPNOTE 4.3.16); the library takes nothing shorter for a file at all.
    private const int LeastBytes = 22;

    private readonly string _path;
    private readonly FileState _state;
    private readonly SourceFile _file;
    private readonly ZipArchive _archive;
    private readonly Dictionary<string, ZipArchiveEntry?> _entries = new(StringComparer.Ordinal);

    /// <summary>Opens an archive and reads its directory.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="expected">The archive as it was seen; null to take it as it is.</param>
    /// <param name="files">The durable layer.</param>
    /// <exception cref="FaultException">It cannot be read, is none, or is not what was seen.</exception>
    public OpenArchive(string path, FileState? expected, IDurableFiles files)
    {
        ArgumentNullException.ThrowIfNull(files);
        _path = path;
        _file = expected is null ? files.OpenSource(path) : files.OpenAsPlanned(path, expected);
        try
        {
            var facts = _file.Facts;
            _state = new FileState(facts.Bytes, facts.ModifiedUtc);
            if (facts.Bytes < LeastBytes)
            {
                throw new FaultException(FaultCode.SourceUnreadable, path);
            }
            _archive = new ZipArchive(new SourceStream(_file, path, facts.Bytes), ZipArchiveMode.Read);
            foreach (var entry in _archive.Entries)
            {
                _entries[entry.FullName] = _entries.ContainsKey(entry.FullName) ? null : entry;
            }
        }
        catch (InvalidDataException e)
        {
            _file.Dispose();
            throw new FaultException(FaultCode.SourceUnreadable, path, e);
        }
        catch
        {
            _file.Dispose();
            throw;
        }
    }

    /// <summary>The archive as it is read.</summary>
    public FileState State => _state;

    /// <summary>Its entries in the order of its directory.</summary>
    public IReadOnlyList<ZipArchiveEntry> Entries => _archive.Entries;

    /// <summary>The entry of a name; null where there is none, or more than one.</summary>
    public ZipArchiveEntry? Only(string name) => _entries.GetValueOrDefault(name);

    /// <summary>Opens the entry of a name. Whatever the library makes of damage is told as that.</summary>
    /// <exception cref="FaultException">There is none, or it is damaged (<see cref="FaultCode.ArchiveEntryDamaged"/>).</exception>
    public Stream Open(string name)
    {
        try
        {
            return Only(name)?.Open() ?? throw new FaultException(new Fault(FaultCode.ArchiveEntryDamaged) { Path = _path, Name = name });
        }
        catch (InvalidDataException e)
        {
            throw new FaultException(new Fault(FaultCode.ArchiveEntryDamaged) { Path = _path, Name = name }, e);
        }
    }

    /// <summary>Refuses an archive that changed while it was read.</summary>
    /// <exception cref="FaultException">It is not what it was (<see cref="FaultCode.SourceChanged"/>).</exception>
    public void RequireUnchanged() => _file.RequireUnchanged(_path, _state);

    /// <inheritdoc/>
    public void Dispose()
    {
        _archive.Dispose();
        _file.Dispose();
    }
}
