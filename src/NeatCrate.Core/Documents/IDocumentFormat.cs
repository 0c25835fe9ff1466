using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>A kind of file that points at media. How another one is added stands in docs/extending.md.</summary>
public interface IDocumentFormat
{
    /// <summary>What it is called.</summary>
    string Name { get; }

    /// <summary>True for a file of this kind, by its name.</summary>
    bool Recognises(string name);

    /// <summary>Reads one.</summary>
    /// <param name="bytes">The file's bytes.</param>
    /// <exception cref="UnreadableDocumentException">The bytes are none of this kind.</exception>
    IMediaDocument Read(byte[] bytes);

    /// <summary>The absolute paths that a pointer may mean, the likeliest first; none when it does not point at a file on this machine.</summary>
    /// <param name="url">The pointer as it is written.</param>
    /// <param name="folder">Absolute path of the folder that the document stands in.</param>
    IReadOnlyList<string> Candidates(string url, string folder);

    /// <summary>What to write to point at a file.</summary>
    /// <param name="path">Absolute path of the file.</param>
    /// <param name="folder">Absolute path of the folder that the document stands in.</param>
    string PointerTo(string path, string folder);
}

/// <summary>A file that points at media, as it was read. Only its pointers can be changed; every other byte stays.</summary>
public interface IMediaDocument
{
    /// <summary>Every pointer at a media file, in the order of the document.</summary>
    IReadOnlyList<MediaReference> References { get; }

    /// <summary>True where it may point at more than was understood, so that nobody can say what it does not use.</summary>
    bool MayPointElsewhere { get; }

    /// <summary>
    /// Lets references say something else. <paramref name="change"/> is asked for each in the order of
    /// <see cref="References"/>, and gives what it is to say, or null to leave it. Nothing else changes.
    /// </summary>
    /// <returns>How many references were changed.</returns>
    int Repoint(Func<MediaReference, NewReference?> change);

    /// <summary>The document as bytes: as it was read, but for what was changed.</summary>
    byte[] ToBytes();
}
