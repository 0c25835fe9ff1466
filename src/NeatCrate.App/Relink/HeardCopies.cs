using NeatCrate.App.Ground;
using NeatCrate.Core.Relink;

namespace NeatCrate.App.Relink;

/// <summary>
/// Lets copies that are kept be seen and heard like any file. Content of a vault is a file; what is in a bundle is unpacked into the data
/// folder, the last few of them, and held to its SHA-512.
/// </summary>
public sealed class HeardCopies(AppOptions options, IDurableFiles files)
{
    // What somebody goes back and forth between while comparing.
    private const int MostKept = 6;

    private readonly Lock _lock = new();

    private string Folder => Path.Combine(options.DataFolder, "unpacked");

    /// <summary>Absolute path of a file that holds what was found.</summary>
    /// <exception cref="FaultException">It is not there any more, cannot be read, or is damaged.</exception>
    public string PathOf(FoundFile found)
    {
        ArgumentNullException.ThrowIfNull(found);
        return found.Copy switch
        {
            null => found.Path,
            { Entry: null } content => content.Path,
            { } packed => Unpacked(packed, found.Name),
        };
    }

    private string Unpacked(KeptCopy packed, string name)
    {
        // With its extension: what reads it goes by that where the bytes leave it open.
        var path = Path.Combine(Folder, packed.Content + Path.GetExtension(name));
        lock (_lock)
        {
            if (File.Exists(path))
            {
                File.SetLastAccessTimeUtc(path, DateTime.UtcNow);
                return path;
            }
            Directory.CreateDirectory(Folder);
            foreach (var old in new DirectoryInfo(Folder).GetFiles().OrderByDescending(f => f.LastAccessTimeUtc).Skip(MostKept - 1))
            {
                old.Delete();
            }
            var temporary = path + ".part";
            try
            {
                using (var reading = new OriginReading(files))
                using (var to = File.Create(temporary))
                using (var sink = new HashingSink(to.Write))
                {
                    packed.Origin(name).WriteTo(sink, reading);
                }
                File.Move(temporary, path, overwrite: true);
                return path;
            }
            finally
            {
                // A full disk, or a bundle that is not what it states, leaves nothing here.
                File.Delete(temporary);
            }
        }
    }
}
