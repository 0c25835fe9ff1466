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
    /// <returns>What it points at; what else can be done with it shows in the other parts that it has (<see cref="IRepointable"/>, <see cref="IMediaList"/>, <see cref="ITracks"/>).</returns>
    IMediaPointers Read(byte[] bytes);

    /// <summary>Reads what a document says.</summary>
    /// <param name="bytes">The file's bytes.</param>
    /// <param name="before">What was read of it last; null where it is new.</param>
    /// <param name="isWorkedIn">Whether it is likely to be saved again.</param>
    /// <exception cref="UnreadableDocumentException">The bytes are none of this kind.</exception>
    DocumentReading ReadAgain(byte[] bytes, DocumentReading? before, bool isWorkedIn) => DocumentReading.Of(Read(bytes));

    /// <summary>The absolute paths that a pointer may mean, the likeliest first; none when it does not point at a file on this machine.</summary>
    /// <param name="url">The pointer as it is written.</param>
    /// <param name="folder">Absolute path of the folder that the document stands in.</param>
    IReadOnlyList<string> Candidates(string url, string folder);

    /// <summary>What to write to point at a file.</summary>
    /// <param name="path">Absolute path of the file.</param>
    /// <param name="folder">Absolute path of the folder that the document stands in.</param>
    string PointerTo(string path, string folder);
}
