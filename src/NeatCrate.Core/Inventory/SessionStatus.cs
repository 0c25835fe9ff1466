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

/// <summary>The one line that a session's label says.</summary>
/// <param name="Attention">How urgent it is.</param>
/// <param name="Sentence">What is so, with figures.</param>
/// <param name="Next">What to do next, in a few words; empty when nothing waits.</param>
/// <param name="Problem">Why the document, or a folder, cannot be read; then there is no sentence.</param>
public sealed record SessionStatus(Attention Attention, string Sentence, string Next, Fault? Problem = null)
{
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
        if (inventory.Document is null)
        {
            return new SessionStatus(Attention.Unreadable, "", "Look at the folder", inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        // What stands in a folder that cannot be opened is not known, so that nothing can be said of all files.
        if (inventory.Remarks.FirstOrDefault(r => r.Code == FaultCode.CannotBeLookedAt) is { } shut)
        {
            return new SessionStatus(Attention.Unreadable, "", "Look at the folder", shut);
        }
        if (tally.Missing + tally.Away.Count > 0)
        {
            return new SessionStatus(Attention.Silent, SilentSentence(tally), WhatToDo(tally));
        }
        if (tally.AtRisk > 0)
        {
            var stand = tally.AtRisk == 1 ? "stands" : "stand";
            return new SessionStatus(Attention.AtRisk, $"{ByteText.Count(tally.AtRisk, "file")} {stand} outside the session folder, {ByteText.Of(tally.AtRiskBytes)}.", "Copy in");
        }
        var (inside, idle) = (tally.Of(Standing.Inside), tally.Of(Standing.Inside, FileUse.Listed, FileUse.Stray, FileUse.OlderOnly));
        var everything = tally.LeftOut.Count == 0
            ? "Everything is inside"
            : $"Everything is inside but {ByteText.Count(tally.LeftOut.Values.Sum(), "file")} left outside by choice, on {string.Join(", ", tally.LeftOut.Keys.Select(s => $"'{(s.Length == 0 ? "no shelf" : s)}'"))}";
        return idle.Bytes > HeavyShare * inside.Bytes
            ? new SessionStatus(Attention.Heavy, $"{everything}; {idle.Files} of {ByteText.Count(inside.Files, "file")} are placed nowhere, {ByteText.Of(idle.Bytes)}.", "")
            : new SessionStatus(Attention.InOrder, $"{everything}, {(Lost(tally) is > 0 and var lost ? $"only older versions miss {ByteText.Count(lost, "file")}" : "nothing is missing")}.", "");
    }

    /// <summary>What older versions alone miss: nothing sounds otherwise today, and whoever goes back to one will hear it.</summary>
    private static int Lost(SessionTally tally) => tally.Of(Standing.Missing, FileUse.OlderOnly).Files + tally.Of(Standing.Away, FileUse.OlderOnly).Files;

    private static string WhatToDo(SessionTally tally) =>
        tally.Missing == 0 ? "Connect the drive" : tally.Missing == tally.WrittenOtherwise ? "Write them as they are" : "Find the missing files";

    private static string SilentSentence(SessionTally tally)
    {
        var parts = new List<string>();
        if (tally.Missing == tally.WrittenOtherwise && tally.Missing > 0)
        {
            parts.Add($"{ByteText.Count(tally.Missing, "file")} {(tally.Missing == 1 ? "is" : "are")} there, and the document writes the name otherwise");
        }
        else if (tally.Missing > 0)
        {
            parts.Add($"{ByteText.Count(tally.Missing, "file")} {(tally.Missing == 1 ? "is" : "are")} missing"
                + (tally.WrittenOtherwise > 0 ? $", {tally.WrittenOtherwise} of them {(tally.WrittenOtherwise == 1 ? "is" : "are")} there and written otherwise" : ""));
        }
        parts.AddRange(tally.Away.Select(a => $"{ByteText.Count(a.Value, "file")} {(a.Value == 1 ? "is" : "are")} on '{a.Key}', which is away"));
        return string.Join("; ", parts) + ".";
    }
}
