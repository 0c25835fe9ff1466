using System.Text;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>A file in a bundle.</summary>
/// <param name="Name">Full name of its entry in the archive.</param>
/// <param name="Hash">Its content, as the bag's manifest states it.</param>
/// <param name="Bytes">Its size in bytes, unpacked.</param>
/// <param name="ModifiedUtc">Its time of the last change.</param>
public sealed record BagEntry(string Name, ContentHash Hash, long Bytes, DateTime ModifiedUtc);

/// <summary>Reads what a bundle states of itself: a ZIP file with a BagIt bag (RFC 8493), whose manifest names the SHA-512 of each file.</summary>
public static class BagReader
{
    private const string ManifestName = "manifest-sha512.txt";
    private const int MostManifestBytes = 256 * 1024 * 1024;

    // A hash and a path, which no system lets become so long.
    private const int MostLineBytes = 64 * 1024;

    /// <summary>What the bag's manifest names and the archive has: each line a SHA-512 and a path from the bag's folder. Nothing of a file that is no bundle.</summary>
    /// <param name="path">Absolute path of the bundle.</param>
    /// <param name="files">The durable layer.</param>
    public static IReadOnlyList<BagEntry> Read(string path, IDurableFiles files)
    {
        try
        {
            using var archive = new OpenArchive(path, null, files);
            return Read(archive);
        }
        catch (Exception e) when (e is InvalidDataException or FaultException)
        {
            // A file that is no bundle, or cannot be read, has nothing to heal from.
            return [];
        }
    }

    /// <summary>The same of an archive that is open.</summary>
    /// <exception cref="InvalidDataException">Its manifest is damaged, or means harm.</exception>
    internal static List<BagEntry> Read(OpenArchive archive)
    {
        var entries = new List<BagEntry>();
        if (archive.Entries.FirstOrDefault(e => e.Name == ManifestName && e.FullName.Count(c => c == '/') == 1 && e.Length < MostManifestBytes) is not { } manifest)
        {
            return entries;
        }
        var bag = manifest.FullName[..^ManifestName.Length];
        using var stream = manifest.Open();
        foreach (var line in Lines(stream))
        {
            if (line.Length > ContentHash.Digits && ContentHash.TryParse(line.AsSpan(0, ContentHash.Digits), out var hash) && archive.Only(bag + line[ContentHash.Digits..].TrimStart()) is { } entry)
            {
                entries.Add(new BagEntry(entry.FullName, hash, entry.Length, entry.LastWriteTime.UtcDateTime));
            }
        }
        return entries;
    }

    /// <summary>The lines of a manifest. What has a line that no path is as long as is none: whoever made it may mean harm.</summary>
    /// <exception cref="InvalidDataException">It is none.</exception>
    private static IEnumerable<string> Lines(Stream manifest)
    {
        var (buffer, line) = (new byte[MostLineBytes], new MemoryStream());
        for (int count; (count = manifest.Read(buffer)) > 0;)
        {
            for (var at = 0; at < count;)
            {
                var end = Array.IndexOf(buffer, (byte)'\n', at, count - at);
                line.Write(buffer, at, (end < 0 ? count : end) - at);
                if (line.Length > MostLineBytes)
                {
                    throw new InvalidDataException();
                }
                if (end < 0)
                {
                    break;
                }
                yield return Taken(line);
                at = end + 1;
            }
        }
        if (line.Length > 0)
        {
            yield return Taken(line);
        }

        static string Taken(MemoryStream line)
        {
            var text = Encoding.UTF8.GetString(line.GetBuffer(), 0, (int)line.Length).TrimEnd('\r').TrimStart('\uFEFF');
            line.SetLength(0);
            return text;
        }
    }
}
