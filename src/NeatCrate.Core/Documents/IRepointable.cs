namespace NeatCrate.Core.Documents;

/// <summary>A document whose pointers can be changed; every other byte stays.</summary>
public interface IRepointable : IMediaPointers
{
    /// <summary>
    /// Lets references say something else. <paramref name="change"/> is asked for each in the order of
    /// <see cref="IMediaPointers.References"/>, and gives what it is to say, or null to leave it. Nothing else changes.
    /// </summary>
    /// <returns>How many references were changed.</returns>
    int Repoint(Func<MediaReference, NewReference?> change);

    /// <summary>The document as bytes: as it was read, but for what was changed.</summary>
    byte[] ToBytes();
}
