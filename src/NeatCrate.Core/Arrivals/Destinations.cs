using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Arrivals;

/// <summary>Where a file will be in the session.</summary>
/// <param name="Path">Absolute path of its copy, or of a file inside that holds the same.</param>
/// <param name="IsCopied">Whether it has to be copied there.</param>
/// <param name="SoundsLike">Name of a file inside that holds the same sound among other texts; null where there is none.</param>
internal sealed record Destination(string Path, bool IsCopied, string? SoundsLike);

/// <summary>
/// Gives every file that comes into a session its place: content that is inside already is used and not copied again, and
/// the same name with other content is numbered, so that both are kept.
/// </summary>
internal sealed class Destinations(SessionInventory inventory, string folder, IIdentities identities, CancellationToken cancel)
{
    private readonly FreeNames _names = FreeNames.In(folder);
    private readonly Dictionary<string, Destination> _destinations = new(StringComparer.Ordinal);
    private readonly Dictionary<string, FileIdentities?> _identities = new(StringComparer.Ordinal);

    // What is set aside may go any day, so that nothing may rely on it.
    // For what is yet to be copied, the bytes are compared through the original, since the copy is not there.
    private readonly List<(InventoryFile Source, string Inside)> _inside = [.. inventory.Standing(Standing.Inside).Where(f => f.Use != FileUse.SetAside).Select(f => (f, f.Path))];

    /// <summary>The place of a file that was added.</summary>
    public Destination this[InventoryFile file] => _destinations[file.Path];

    /// <summary>True for a file that was added.</summary>
    public bool Knows(InventoryFile file) => _destinations.ContainsKey(file.Path);

    /// <summary>Gives a file its place; files of equal size are read to tell whether they are the same.</summary>
    /// <param name="file">The file.</param>
    /// <param name="wished">The name that its copy is to have; null for its own.</param>
    public Destination Add(InventoryFile file, string? wished = null)
    {
        if (_destinations.TryGetValue(file.Path, out var known))
        {
            return known;
        }
        var same = _inside.Find(i => i.Source.Bytes == file.Bytes && ByteProbe.AreSame(i.Source.Path, file.Path, file.Bytes / 2, file.Bytes / 2)
            && Of(i.Source)?.Bytes is { } bytes && bytes == Of(file)?.Bytes);
        if (same.Inside is { } inside)
        {
            return _destinations[file.Path] = new Destination(inside, false, null);
        }
        var destination = Path.Combine(folder, _names.Claim(wished ?? file.Name));
        var twin = _inside.Find(i => IsAlike(i.Source, file) && Of(i.Source)?.Sound is { } sound && sound == Of(file)?.Sound);
        _inside.Add((file, destination));
        return _destinations[file.Path] = new Destination(destination, true, twin.Inside is { } path ? Path.GetFileName(path) : null);
    }

    /// <summary>Gives a file a place that somebody else chose.</summary>
    /// <param name="file">The file.</param>
    /// <param name="path">Absolute path of its copy, which is free.</param>
    public void Place(InventoryFile file, string path) => _destinations[file.Path] = new Destination(path, true, null);

    /// <summary>A name in the folder that is free, and taken from then on.</summary>
    public string NewPath(string wished) => Path.Combine(folder, _names.Claim(wished));

    /// <summary>Only sounds of one format and length can be the same, and are worth reading.</summary>
    private static bool IsAlike(InventoryFile one, InventoryFile other) => one.Header is { } a && other.Header is { } b && one.Path != other.Path
        && a.DataBytes == b.DataBytes && a.DataBytes > 0 && a.Encoding == b.Encoding && a.SampleRate == b.SampleRate && a.Channels == b.Channels
        && (a.Encoding == SampleEncoding.Encoded || ByteProbe.AreSame(one.Path, other.Path, a.DataOffset + (a.DataBytes / 2), b.DataOffset + (b.DataBytes / 2)));

    /// <summary>Both identities; null for what cannot be read: it is the same as nothing, and says so itself when it is copied.</summary>
    private FileIdentities? Of(InventoryFile file)
    {
        if (!_identities.TryGetValue(file.Path, out var known))
        {
            try
            {
                known = identities.Identify(file.Path, file.Header, null, cancel);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                known = null;
            }
            _identities[file.Path] = known;
        }
        return known;
    }
}
