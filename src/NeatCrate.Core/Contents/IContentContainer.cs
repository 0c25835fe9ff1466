namespace NeatCrate.Core.Contents;

/// <summary>Something that holds the contents of a session: a folder, a bag, a backup in a vault. How one more is added stands in docs/extending.md.</summary>
public interface IContentContainer
{
    /// <summary>What is told of it.</summary>
    string Name { get; }

    /// <summary>What it holds, each entry with an origin by which it can be had. It is read once for whatever is done with it.</summary>
    /// <exception cref="FaultException">It cannot be read.</exception>
    SessionContents Read();
}
