using System.Collections.Immutable;

namespace NeatCrate.Core.Contents;

/// <summary>What whoever packs or copies a session should hear of entries of its folder that cannot go, each by what it is.</summary>
public static class LeftOutRemarks
{
    /// <summary>The remarks, one for each kind.</summary>
    public static IEnumerable<Fault> Of(SessionContents contents)
    {
        ArgumentNullException.ThrowIfNull(contents);
        return contents.LeftOut.Where(l => CodeOf(l.Why) is not null).GroupBy(l => l.Why).OrderBy(g => g.Key)
            .Select(g => new Fault(CodeOf(g.Key)!.Value) { Names = [.. g.Select(l => l.Path)] })
            .Concat(contents.MayBeSilent.IsEmpty ? [] : [new Fault(FaultCode.InstrumentsMayBeSilent) { Names = contents.MayBeSilent, Count = contents.MayBeSilent.Length }]);
    }

    private static FaultCode? CodeOf(WhyLeftOut why) => why switch
    {
        WhyLeftOut.LinkedFolder => FaultCode.LinkedFoldersStay,
        WhyLeftOut.LinkToNothing => FaultCode.LinksToNothingStay,
        WhyLeftOut.NotAFile => FaultCode.NoFilesStay,
        WhyLeftOut.NameNotText or WhyLeftOut.CannotBeRead => FaultCode.CannotBePacked,
        // What documents miss is told by whoever counts what will be silent.
        _ => null,
    };
}
