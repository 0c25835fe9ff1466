namespace NeatCrate.Core.Plans;

/// <summary>A document that points at a file.</summary>
/// <param name="Path">Absolute path of the file.</param>
/// <param name="Document">The document, as it is shown: session and name.</param>
/// <param name="DocumentPath">Absolute path of the document.</param>
public sealed record FileUser(string Path, string Document, string DocumentPath);

/// <summary>Tells who points at files.</summary>
public interface IFileUsers
{
    /// <summary>The documents that point at any of these files.</summary>
    /// <param name="paths">Absolute paths of the files.</param>
    /// <param name="rewritten">Documents that count as holding these bytes, whatever they hold now.</param>
    IReadOnlyList<FileUser> PointingAt(IReadOnlySet<string> paths, IReadOnlyDictionary<string, byte[]> rewritten);
}
