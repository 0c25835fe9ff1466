namespace NeatCrate.Core.Documents;

/// <summary>
/// How much is known of a use of a file, from the most to the least. Stations ask for what they need and never for a format: what is
/// cut needs ranges, what is set aside needs to know that nothing names it.
/// </summary>
public enum UseKnowledge
{
    /// <summary>A clip plays it, and which part of it.</summary>
    PlacedWithRanges,

    /// <summary>A clip plays it; which part is not known.</summary>
    Placed,

    /// <summary>Something in the document points at it, for whatever: another program's own data, an instrument.</summary>
    Named,

    /// <summary>The document may point at it, or only did so once.</summary>
    MayBeNamed,

    /// <summary>Nobody can say whether the document uses it.</summary>
    Unknown,
}
