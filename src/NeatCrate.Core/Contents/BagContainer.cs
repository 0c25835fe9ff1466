using System.Collections.Immutable;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Contents;

/// <summary>A BagIt bag in a ZIP file (RFC 8493), with a session folder as its payload: a bundle. Its documents point at nothing but what is in it.</summary>
/// <param name="path">Absolute path of the bundle.</param>
/// <param name="files">The durable layer.</param>
public sealed class BagContainer(string path, IDurableFiles files) : IContentContainer
{
    private const string Payload = "data/";

    /// <inheritdoc/>
    public string Name => $"the bundle '{Path.GetFileName(path)}'";

    /// <inheritdoc/>
    public SessionContents Read()
    {
        using var archive = new OpenArchive(path, null, files);
        try
        {
            return Read(archive, BagReader.Read(archive));
        }
        catch (InvalidDataException e)
        {
            throw new FaultException(FaultCode.SourceUnreadable, path, e);
        }
    }

    private SessionContents Read(OpenArchive archive, List<BagEntry> bag)
    {
        // Printed tracks stand beside the session folder, and whoever packs a bag anew may name them first.
        var payload = bag.Select(e => e.Name.Split('/')).Where(n => n is [_, "data", _, _, ..]).ToList();
        var top = payload.Find(n => n.Length == 4 && SessionFolder.IsDocument(n[3])) ?? payload.FirstOrDefault() ?? throw new FaultException(FaultCode.SourceUnreadable, path);
        var prefix = $"{top[0]}/{Payload}{top[2]}/";
        return new SessionContents
        {
            Folder = top[2],
            Entries = [.. bag.Where(e => e.Name.StartsWith(prefix, StringComparison.Ordinal) && SessionLayout.IsBelow(e.Name[prefix.Length..])).Select(e => Entry(e, prefix.Length, archive.State)).OrderBy(e => e.Path, StringComparer.Ordinal)],
            Folders = [.. archive.Entries.Select(e => e.FullName).Where(n => n.Length > prefix.Length && n.EndsWith('/') && n.StartsWith(prefix, StringComparison.Ordinal))
                .Select(n => n[prefix.Length..^1]).Where(SessionLayout.IsBelow).Order(StringComparer.Ordinal).Select(n => new ContentFolder(n, null, null, true))],
            Pointers = [],
        };
    }

    private ContentEntry Entry(BagEntry entry, int prefix, FileState state)
    {
        var place = entry.Name[prefix..];
        var role = SessionFolder.IsDocument(Path.GetFileName(place)) ? ContentRole.Document : MediaFiles.KindOf(place) is not null ? ContentRole.Media : ContentRole.Other;
        return new ContentEntry(place, role, new ArchiveEntry(path, state, entry.Name, entry.Bytes, entry.Hash.ToString()), entry.Bytes, new KeptMarks(entry.ModifiedUtc, 0, null)) { Sha512 = entry.Hash };
    }
}
