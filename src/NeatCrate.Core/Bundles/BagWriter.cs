using NeatCrate.Core.Media;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Bundles;

/// <summary>What takes the files of a bag in: a ZIP file, or a folder.</summary>
internal interface IBagTarget
{
    /// <summary>Adds a file.</summary>
    /// <param name="path">Its path from the bag's folder, with forward slashes.</param>
    /// <param name="marks">Its time and its permissions.</param>
    /// <param name="compress">Whether it gets smaller by being deflated, where that is done.</param>
    /// <param name="mostBytes">It has no more bytes than these.</param>
    /// <param name="write">Writes its bytes.</param>
    void AddFile(string path, KeptMarks marks, bool compress, long mostBytes, Action<Stream> write);

    /// <summary>Adds a folder that is there for its own sake.</summary>
    /// <param name="path">Its path from the bag's folder, with forward slashes.</param>
    /// <param name="modifiedUtc">Its time, where it keeps one.</param>
    void AddFolder(string path, DateTime modifiedUtc);

    /// <summary>Ends it.</summary>
    void Finish();
}

/// <summary>Puts a bundle into a bag (RFC 8493): the payload, and then the tag files that tell what came in.</summary>
/// <param name="contents">What goes in.</param>
/// <param name="reading">What origins are read with.</param>
/// <param name="scratch">Where a file may be made for the time of the work.</param>
internal sealed class BagWriter(BundleContents contents, OriginReading reading, Func<ScratchUse, string> scratch)
{
    private long _payloadBytes;

    /// <summary>Writes all of it.</summary>
    public void Write(IBagTarget to)
    {
        var tags = new List<(string Path, ContentHash Sha512)> { AddTag(to, "bagit.txt", BagTags.Declaration) };
        var (payload, originals) = (new List<(string Path, ContentHash Sha512)>(), new List<OriginalSound>());
        foreach (var folder in contents.EmptyFolders)
        {
            to.AddFolder("data/" + folder, contents.PackedAt.UtcDateTime);
        }
        foreach (var entry in contents.Entries)
        {
            reading.Cancel.ThrowIfCancellationRequested();
            var (file, original) = AddFile(to, "data/" + entry.PayloadPath, entry);
            payload.Add(file);
            if (original is not null)
            {
                originals.Add(original);
            }
        }
        if (originals.Count > 0)
        {
            tags.Add(AddTag(to, OriginalSounds.ListName, OriginalSounds.List(originals)));
            tags.Add(AddTag(to, OriginalSounds.ScriptName, OriginalSounds.Script(originals)));
        }
        tags.Add(AddTag(to, BagTags.ManifestName, BagTags.Manifest(payload)));
        tags.Add(AddTag(to, "bag-info.txt", BagTags.Info(contents.Info, _payloadBytes, contents.Entries.Length)));
        tags.Add(AddTag(to, "packing-slip.txt", contents.SlipText));
        tags.Add(AddTag(to, "packing-slip.json", contents.SlipJson));
        if (contents.SlipHtml is { } page)
        {
            tags.Add(AddTag(to, "packing-slip.html", page));
        }
        AddTag(to, BagTags.TagManifestName, BagTags.Manifest(tags));
        to.Finish();
    }

    private (string Path, ContentHash Sha512) AddTag(IBagTarget to, string path, byte[] content)
    {
        to.AddFile(path, new KeptMarks(contents.PackedAt.UtcDateTime, 0, null), compress: true, content.Length, stream => stream.Write(content));
        return (path, ContentHash.Of(content));
    }

    /// <returns>Its manifest line; and for one that is packed what it was.</returns>
    private ((string Path, ContentHash Sha512) Line, OriginalSound? Original) AddFile(IBagTarget to, string path, BundleEntry entry)
    {
        var stream = Stream.Null;
        OriginalSound? original = null;
        using var sink = new HashingSink(bytes => stream.Write(bytes), scratch);
        // Sound hardly gets smaller by this; other files do, and cost no time worth speaking of.
        var compress = MediaFiles.KindOf(path) is null;
        to.AddFile(path, entry.Marks with { ModifiedUtc = entry.Marks.ModifiedUtc ?? contents.PackedAt.UtcDateTime }, compress, entry.Origin is PackedSound large ? large.ScratchBytes : entry.Bytes, opened =>
        {
            stream = opened;
            if (entry.Origin is PackedSound sound)
            {
                var (_, sha512, shell) = sound.Pack(sink, reading);
                original = new OriginalSound(path, Path.ChangeExtension(path, sound.Extension), sha512, shell.IsPlainWave);
            }
            else
            {
                entry.Origin.WriteTo(sink, reading);
            }
        });
        _payloadBytes += sink.Length;
        return ((path, sink.TakeSha512()), original);
    }
}
