using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Inventory;

/// <summary>How much a session needs somebody, the most urgent first.</summary>
public enum Attention
{
    /// <summary>The folder or the document cannot be read.</summary>
    Unreadable,

    /// <summary>Something in the document is silent.</summary>
    Silent,

    /// <summary>Something stands outside and may be silent one day.</summary>
    AtRisk,

    /// <summary>Nothing is wrong, but there is weight to lose.</summary>
    Heavy,

    /// <summary>Everything is inside.</summary>
    InOrder,
}

/// <summary>The one line that a session's label says.</summary>
/// <param name="Attention">How urgent it is.</param>
/// <param name="Sentence">What is so, with figures.</param>
/// <param name="Next">What to do next, in a few words; empty when nothing waits.</param>
/// <param name="Problem">Why the document cannot be read; then there is no sentence.</param>
public sealed record SessionStatus(Attention Attention, string Sentence, string Next, Fault? Problem = null)
{
    // Below this share of the folder, takes that nobody placed are not worth a word.
    private const double HeavyShare = 0.4;

    /// <summary>The status that follows from an inventory.</summary>
    /// <param name="inventory">The inventory.</param>
    /// <param name="isLeftOut">True for an outside file that somebody chose to leave outside; null when nobody chose.</param>
    public static SessionStatus Of(SessionInventory inventory, Func<InventoryFile, bool>? isLeftOut = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        if (inventory.Document is null)
        {
            return new SessionStatus(Attention.Unreadable, "", "Look at the folder", inventory.Current?.Problem ?? new Fault(FaultCode.NoDocument) { Path = inventory.Folder });
        }
        // What only an older version points at is silent only there.
        var counted = inventory.Files.Where(f => f.Use is FileUse.Placed or FileUse.Listed).ToList();
        var missing = counted.Where(f => f.Standing == Standing.Missing).ToList();
        var away = counted.Where(f => f.Standing == Standing.Away).ToList();
        var outside = counted.Where(f => f.Standing == Standing.Outside && !(isLeftOut?.Invoke(f) ?? false)).ToList();
        var leftOut = counted.Where(f => f.Standing == Standing.Outside && (isLeftOut?.Invoke(f) ?? false)).ToList();
        if (missing.Count + away.Count > 0)
        {
            return new SessionStatus(Attention.Silent, SilentSentence(missing.Count, away), missing.Count > 0 ? "Find the missing files" : "Connect the drive");
        }
        if (outside.Count > 0)
        {
            var stand = outside.Count == 1 ? "stands" : "stand";
            return new SessionStatus(
                Attention.AtRisk, $"{ByteText.Count(outside.Count, "file")} {stand} outside the session folder, {ByteText.Of(outside.Sum(f => f.Bytes))}.", "Copy in");
        }
        var inside = inventory.Standing(Standing.Inside).ToList();
        var idle = inside.Where(f => f.Use is FileUse.Listed or FileUse.Stray or FileUse.OlderOnly).ToList();
        var (idleBytes, allBytes) = (idle.Sum(f => f.Bytes), inside.Sum(f => f.Bytes));
        var everything = leftOut.Count == 0
            ? "Everything is inside"
            : $"Everything is inside but {ByteText.Count(leftOut.Count, "file")} left outside by choice, on {string.Join(", ", leftOut.Select(f => $"'{f.ShelfName ?? "no shelf"}'").Distinct())}";
        return idleBytes > HeavyShare * allBytes
            ? new SessionStatus(Attention.Heavy, $"{everything}; {idle.Count} of {ByteText.Count(inside.Count, "file")} are placed nowhere, {ByteText.Of(idleBytes)}.", "")
            : new SessionStatus(Attention.InOrder, $"{everything}, nothing is missing.", "");
    }

    private static string SilentSentence(int missing, List<InventoryFile> away)
    {
        var parts = new List<string>();
        if (missing > 0)
        {
            parts.Add($"{ByteText.Count(missing, "file")} {(missing == 1 ? "is" : "are")} missing");
        }
        parts.AddRange(away.GroupBy(f => f.ShelfName).Select(g => $"{g.Count()} on '{g.Key}', which is away"));
        return string.Join("; ", parts) + ".";
    }
}
