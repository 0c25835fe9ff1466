using NeatCrate.Core.Faults;

namespace NeatCrate.App.Plans;

/// <summary>What the page can do about a finding, in one step.</summary>
public enum Remedy
{
    /// <summary>Hand the bundle over in parts that reach the recipient.</summary>
    InParts,

    /// <summary>Pack sound without loss.</summary>
    PackSound,

    /// <summary>Let sound go as it is.</summary>
    SoundAsItIs,

    /// <summary>Let the tracks go along printed.</summary>
    PrintTracks,

    /// <summary>Print no tracks.</summary>
    PrintNothing,

    /// <summary>Convert files of other rates for the print.</summary>
    ConvertRates,

    /// <summary>Note that the recipient has the instruments and effects that are named.</summary>
    TheyHaveIt,

    /// <summary>Leave kept saves at home.</summary>
    LeaveKeptSaves,

    /// <summary>Look for what is missing.</summary>
    Relink,
}

/// <summary>Something that is to be known before a plan is applied, with what can be done about it.</summary>
/// <param name="Sentence">What it is, as it stands among the warnings.</param>
/// <param name="Remedies">What the page can do about it, the likeliest first.</param>
/// <param name="Names">What it is about, where a remedy needs that.</param>
public sealed record PlanFinding(string Sentence, IReadOnlyList<Remedy> Remedies, IReadOnlyList<string> Names);

/// <summary>Which remedy there is for which finding.</summary>
public static class Remedies
{
    /// <summary>Remedies for a remark of a plan; none where nothing can be done in one step.</summary>
    public static IReadOnlyList<Remedy> Of(Fault fault)
    {
        ArgumentNullException.ThrowIfNull(fault);
        return fault.Code switch
        {
            FaultCode.BundleTooLargeToSend => [Remedy.InParts, Remedy.PackSound],
            FaultCode.RecipientCannotRead => [Remedy.PrintTracks],
            FaultCode.RecipientLacks => [Remedy.TheyHaveIt],
            FaultCode.PackingNeedsDocument => [Remedy.SoundAsItIs],
            FaultCode.KeptSavesPointAtUnpacked => [Remedy.LeaveKeptSaves, Remedy.SoundAsItIs],
            FaultCode.NothingToPrint => [Remedy.PrintNothing],
            FaultCode.TracksNotPrinted => [Remedy.ConvertRates],
            FaultCode.SilentInBundle => [Remedy.Relink],
            _ => [],
        };
    }
}
