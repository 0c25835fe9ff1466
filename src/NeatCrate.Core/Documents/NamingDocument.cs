using NeatCrate.Core.Names;

namespace NeatCrate.Core.Documents;

/// <summary>
/// A document of a program whose format nobody here knows: what it names is found in its bytes, and nothing else of it is understood. It
/// points at more than that for all we know, and is never written.
/// </summary>
public sealed class NamingDocument : IMediaPointers
{
    private NamingDocument(FoundNames names) => Names = names;

    /// <summary>The format of every file that is of no known one.</summary>
    public static IDocumentFormat Format { get; } = new Reader();

    /// <summary>The names that were found; which files they mean depends on what lies around the document.</summary>
    public FoundNames Names { get; }

    /// <inheritdoc/>
    public IReadOnlyList<MediaReference> References => [];

    /// <inheritdoc/>
    public bool MayPointElsewhere => true;

    private sealed class Reader : IDocumentFormat
    {
        public string Name => "another program's document";

        public bool Recognises(string name) => true;

        public IMediaPointers Read(byte[] bytes) => new NamingDocument(NameFinder.Find(bytes));

        public IReadOnlyList<string> Candidates(string url, string folder) => [];

        public string PointerTo(string path, string folder) => Path.GetRelativePath(folder, path);
    }
}
