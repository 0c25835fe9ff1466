using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Inventory;

/// <summary>How a document uses a file.</summary>
/// <param name="Document">Absolute path of the document.</param>
/// <param name="IsCurrent">True for the session's current one.</param>
/// <param name="Placed">How many of its clips play the file, through instruments too.</param>
/// <param name="Listed">How often it stands on the document's list, which is ours to change.</param>
/// <param name="Named">How often something else in the document points at it: another program's own data, or an instrument on a list.</param>
public sealed record DocumentUse(string Document, bool IsCurrent, int Placed, int Listed, int Named)
{
    /// <summary>The least that is known of any use of the file in the document: what is not known of one of them is not known of the file. Null where it is only listed.</summary>
    public UseKnowledge? Knowledge { get; init; } = Named > 0 ? UseKnowledge.Named : Placed > 0 ? UseKnowledge.PlacedWithRanges : null;

    /// <summary>True where every use is known with the part that is played.</summary>
    public bool IsKnownToTheSample => Knowledge is null or UseKnowledge.PlacedWithRanges;

    /// <summary>True where something names the file without playing it, as far as is known.</summary>
    public bool IsNamed => Knowledge >= UseKnowledge.Named;
}

/// <summary>Files in a session folder that are no media and on no list.</summary>
/// <param name="Files">The files.</param>
/// <param name="EmptyFolders">Absolute paths of the folders that hold nothing.</param>
public sealed record OtherEntries(IReadOnlyList<SessionEntry> Files, IReadOnlyList<string> EmptyFolders);
