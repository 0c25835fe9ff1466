using System.Collections.Immutable;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Inventory;

/// <summary>How much a session needs somebody, the most urgent first.</summary>
public enum Attention
{
    /// <summary>The folder, one in it, or the document cannot be read.</summary>
    Unreadable,

    /// <summary>Something in the document is silent.</summary>
    Silent,

    /// <summary>Something stands outside and may be silent one day.</summary>
    AtRisk,

    /// <summary>Everything is inside, and some of it is nowhere else: whoever knows the backups says so.</summary>
    OnlyHere,

    /// <summary>Nothing is wrong, but there is weight to lose.</summary>
    Heavy,

    /// <summary>Everything is inside.</summary>
    InOrder,
}

/// <summary>What a part of a session's sentence is about: each is mended elsewhere.</summary>
public enum StatusAbout
{
    /// <summary>Nothing that has to be mended.</summary>
    Nothing,

    /// <summary>What is missing, or away.</summary>
    Silent,

    /// <summary>What stands outside.</summary>
    Outside,

    /// <summary>What nobody placed.</summary>
    Idle,

    /// <summary>What older versions alone miss.</summary>
    OlderLosses,
}

/// <summary>A part of the one line that a session's label says.</summary>
/// <param name="About">What it is about.</param>
/// <param name="Text">What is so, with figures.</param>
/// <param name="Joint">What joins it to the part before; empty for the first.</param>
public sealed record StatusPart(StatusAbout About, string Text, string Joint = "");

/// <summary>The one line that a session's label says.</summary>
/// <param name="Attention">How urgent it is.</param>
/// <param name="Parts">What is so.</param>
/// <param name="Next">What to do next, in a few words; empty when nothing waits.</param>
/// <param name="Problem">Why the document, or a folder, cannot be read; then there is no sentence.</param>
public sealed record SessionStatus(Attention Attention, ImmutableArray<StatusPart> Parts, string Next, Fault? Problem = null)
{
    /// <summary>All parts in one sentence; empty where there is a problem.</summary>
    public string Sentence => Parts.IsEmpty ? "" : string.Concat(Parts.Select(p => p.Joint + p.Text)) + ".";

    // Below this share of the folder, takes that nobody placed are not worth a word.
    private const double HeavyShare = 0.4;

    /// <summary>The status that follows from an inventory.</summary>
    /// <param name="inventory">The inventory.</param>
    public static SessionStatus Of(SessionInventory inventory) => Of(inventory, SessionTally.Of(inventory));

    /// <summary>The status that follows from an inventory and the tally of its files.</summary>
    public static SessionStatus Of(SessionInventory inventory, SessionTally tally)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(tally);
        var isNaming = inventory.IsByNames;
        if (inventory.Document is null && !isNaming)
        {
            return new SessionStatus(Attention.Unreadable, [], "Look at the folder", inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        // What stands in a folder that cannot be opened is not known, so that nothing can be said of all files.
        if (inventory.Remarks.FirstOrDefault(r => r.Code == FaultCode.CannotBeLookedAt) is { } shut)
        {
            return new SessionStatus(Attention.Unreadable, [], "Look at the folder", shut);
        }
        if (tally.Missing + tally.Away.Count > 0)
        {
            return new SessionStatus(Attention.Silent, [.. Silent(tally), .. Outside(tally, "; ")], WhatToDo(tally));
        }
        if (tally.AtRisk > 0)
        {
            return new SessionStatus(Attention.AtRisk, [.. Outside(tally, "")], "Copy in");
        }
        if (isNaming && inventory.Named is { Tells: false } few)
        {
            // That everything named is inside says nothing where hardly anything is named.
            return new SessionStatus(
                Attention.Unreadable, [], "",
                new Fault(FaultCode.TooFewNamesFound) { Names = [Path.GetFileName(inventory.Current!.Path)], Count = few.Named, Number = few.Media });
        }
        var (inside, idle) = (tally.Of(Standing.Inside), tally.Of(Standing.Inside, FileUse.Listed, FileUse.Stray));
        var all = isNaming ? "Everything that is named is inside" : "Everything is inside";
        var everything = tally.LeftOut.Count == 0
            ? all
            : $"{all} but {ByteText.Count(tally.LeftOut.Values.Sum(), "file")} left outside by choice, on {string.Join(", ", tally.LeftOut.Keys.Select(s => $"'{(s.Length == 0 ? "no shelf" : s)}'"))}";
        var whole = new StatusPart(StatusAbout.Nothing, everything);
        if (idle.Bytes > HeavyShare * inside.Bytes)
        {
            return new SessionStatus(
                Attention.Heavy,
                [whole, new StatusPart(StatusAbout.Idle, $"{ByteText.Number(idle.Files)} of {ByteText.Count(inside.Files, "file")} are placed nowhere, {ByteText.Of(idle.Bytes)}", "; ")],
                "");
        }
        var lost = Lost(tally);
        // How many are named says how far to rely on it.
        var named = isNaming && inventory.Named is { } share ? $"; {ByteText.Number(share.Named)} of {ByteText.Count(share.Media, "file")} {(share.Named == 1 ? "is" : "are")} named" : "";
        return new SessionStatus(
            Attention.InOrder,
            [lost == 0 ? new StatusPart(StatusAbout.Nothing, $"{everything}, nothing is missing{named}") : whole,
                .. lost == 0 ? Array.Empty<StatusPart>() : [new StatusPart(StatusAbout.OlderLosses, $"only older versions miss {ByteText.Count(lost, "file")}", ", ")]],
            "");
    }

    /// <summary>What older versions alone miss: nothing sounds otherwise today, and whoever goes back to one will hear it.</summary>
    private static int Lost(SessionTally tally) => tally.Of(Standing.Missing, FileUse.OlderOnly).Files + tally.Of(Standing.Away, FileUse.OlderOnly).Files;

    private static string WhatToDo(SessionTally tally) =>
        tally.Missing == 0 ? "Connect the drive" : tally.Missing == tally.WrittenOtherwise ? "Write them as they are" : "Find the missing files";

    private static IEnumerable<StatusPart> Outside(SessionTally tally, string joint)
    {
        if (tally.AtRisk > 0)
        {
            yield return new StatusPart(
                StatusAbout.Outside, $"{ByteText.Count(tally.AtRisk, "file")} {(tally.AtRisk == 1 ? "stands" : "stand")} outside the session folder, {ByteText.Of(tally.AtRiskBytes)}", joint);
        }
    }

    private static IEnumerable<StatusPart> Silent(SessionTally tally)
    {
        var parts = new List<string>();
        if (tally.Missing == tally.WrittenOtherwise && tally.Missing > 0)
        {
            parts.Add($"{ByteText.Count(tally.Missing, "file")} {(tally.Missing == 1 ? "is" : "are")} there, and the document writes the name otherwise");
        }
        else if (tally.Missing > 0)
        {
            parts.Add($"{ByteText.Count(tally.Missing, "file")} {(tally.Missing == 1 ? "is" : "are")} missing"
                + (tally.WrittenOtherwise > 0 ? $", {ByteText.Number(tally.WrittenOtherwise)} of them {(tally.WrittenOtherwise == 1 ? "is" : "are")} there and written otherwise" : ""));
        }
        parts.AddRange(tally.Away.Select(a => $"{ByteText.Count(a.Value, "file")} {(a.Value == 1 ? "is" : "are")} on '{a.Key}', which is away"));
        return parts.Select((text, n) => new StatusPart(StatusAbout.Silent, text, n == 0 ? "" : "; "));
    }
}
