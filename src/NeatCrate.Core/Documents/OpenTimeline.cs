using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>OpenTimelineIO JSON, the format of session documents.</summary>
public sealed class OpenTimeline : IDocumentFormat
{
    /// <summary>The format.</summary>
    public static OpenTimeline Format { get; } = new();

    /// <inheritdoc/>
    public string Name => "OpenTimelineIO";

    /// <inheritdoc/>
    public bool Recognises(string name) => SessionFolder.IsDocument(name);

    /// <inheritdoc/>
    public IMediaPointers Read(byte[] bytes) => SessionDocument.Parse(bytes);

    /// <inheritdoc/>
    public DocumentReading ReadAgain(byte[] bytes, DocumentReading? before, bool isWorkedIn) =>
        isWorkedIn ? SessionDocument.ReadAgain(bytes, before?.Items) : new DocumentReading(SessionDocument.Parse(bytes).Facts);

    /// <summary>Makes an empty document for a new session.</summary>
    public static byte[] New(Guid sessionId, string name, SessionSettings settings, SessionLayout layout, IEnumerable<string> tracks) => SessionDocument.Create(sessionId, name, settings, layout, tracks).ToUtf8();

    /// <inheritdoc/>
    public IReadOnlyList<string> Candidates(string url, string folder) => MediaUrl.Candidates(url, folder);

    /// <inheritdoc/>
    public string PointerTo(string path, string folder) => MediaUrl.From(path, folder);
}
