using System.Collections.Immutable;
using System.IO.Compression;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Bundles;

/// <summary>A file that is handed over.</summary>
/// <param name="Name">Its name; of a folder its path in it.</param>
/// <param name="Bytes">Its bytes.</param>
public sealed record HandedOver(string Name, long Bytes);

/// <summary>A bundle that was packed, in whichever form, opened to be read as whoever gets it reads it: nothing is known of it but what stands in it.</summary>
public sealed class PackedBag : IDisposable
{
    private readonly ZipArchive? _archive;
    private readonly string _top = "";
    private readonly Dictionary<string, long> _files = new(StringComparer.Ordinal);
    private readonly string? _folder;
    private readonly IDurableFiles _disk;

    /// <summary>Opens a bundle.</summary>
    /// <param name="path">Absolute path: a ZIP file, a folder that is a bag, or one that holds the parts of a ZIP file.</param>
    /// <param name="disk">The durable layer.</param>
    /// <exception cref="FaultException">It cannot be read, or is no bundle.</exception>
    public PackedBag(string path, IDurableFiles disk)
    {
        ArgumentNullException.ThrowIfNull(disk);
        _disk = disk;
        var facts = disk.Look(path) ?? throw new FaultException(FaultCode.SourceGone, path);
        if (facts.Kind == EntryKind.Folder && disk.LookAtName(Path.Combine(path, PackBundleFolderStep.ListName)) is null)
        {
            _folder = path;
            Walk("");
            HandedOver = [.. _files.Select(f => new HandedOver(f.Key, f.Value)).OrderBy(f => f.Name, StringComparer.Ordinal)];
            return;
        }
        var places = facts.Kind == EntryKind.Folder ? [.. disk.Names(path).Order(StringComparer.Ordinal).Select(n => Path.Combine(path, n))] : new[] { path };
        HandedOver = [.. places.Select(p => new HandedOver(Path.GetFileName(p), disk.Look(p)?.Bytes ?? 0))];
        var streams = new List<SourceStream>();
        try
        {
            foreach (var part in places.Where(p => p == path || char.IsAsciiDigit(p[^1])))
            {
                var file = disk.OpenSource(part);
                streams.Add(new SourceStream(file, part, file.Facts.Bytes, ownsFile: true));
            }
            _archive = new ZipArchive(new JoinedStream(streams), ZipArchiveMode.Read);
            // The bag is the one folder at the top.
            _top = _archive.Entries.Select(e => e.FullName[..(e.FullName.IndexOf('/', StringComparison.Ordinal) + 1)]).Distinct().ToList() is [{ Length: > 0 } only] ? only : throw new InvalidDataException();
            foreach (var entry in _archive.Entries.Where(e => !e.FullName.EndsWith('/')))
            {
                _files[entry.FullName[_top.Length..]] = entry.Length;
            }
        }
        catch (InvalidDataException e)
        {
            streams.ForEach(s => s.Dispose());
            throw new FaultException(FaultCode.SourceUnreadable, path, e);
        }
        catch
        {
            streams.ForEach(s => s.Dispose());
            throw;
        }
    }

    /// <summary>The files by their paths from the bag's folder, with their bytes.</summary>
    public IReadOnlyDictionary<string, long> Files => _files;

    /// <summary>The files that are handed over.</summary>
    public ImmutableArray<HandedOver> HandedOver { get; }

    /// <summary>Reads a file whole.</summary>
    /// <param name="path">Its path from the bag's folder.</param>
    /// <param name="most">Null is the answer for one that has more bytes.</param>
    /// <exception cref="FaultException">It is damaged.</exception>
    public byte[]? Read(string path, long most)
    {
        if (!_files.TryGetValue(path, out var bytes) || bytes > most)
        {
            return null;
        }
        if (_folder is not null)
        {
            return _disk.ReadAll(Path.Combine(_folder, path));
        }
        try
        {
            using var stream = _archive!.GetEntry(_top + path)!.Open();
            var content = new byte[bytes];
            stream.ReadExactly(content);
            return content;
        }
        catch (Exception e) when (e is InvalidDataException or EndOfStreamException)
        {
            throw new FaultException(new Fault(FaultCode.ArchiveEntryDamaged) { Path = _top.TrimEnd('/'), Name = path }, e);
        }
    }

    private void Walk(string at)
    {
        foreach (var name in _disk.Names(Path.Combine(_folder!, at)))
        {
            var path = at.Length == 0 ? name : $"{at}/{name}";
            switch (_disk.LookAtName(Path.Combine(_folder!, path)))
            {
                case { Kind: EntryKind.Folder }:
                    Walk(path);
                    break;
                case { IsRegular: true } file:
                    _files[path] = file.Bytes;
                    break;
            }
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _archive?.Dispose();
}
