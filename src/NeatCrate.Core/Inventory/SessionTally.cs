namespace NeatCrate.Core.Inventory;

/// <summary>The weight of files that stand alike and are used alike.</summary>
/// <param name="Files">How many.</param>
/// <param name="Bytes">Their bytes, those that are away as they were last seen.</param>
/// <param name="NotKnown">How many of them have no size that is known.</param>
public readonly record struct Weight(int Files, long Bytes, int NotKnown);

/// <summary>What the files of a session come to, kept by counting files in and out: no change of one asks for all others.</summary>
public sealed class SessionTally
{
    private readonly SortedDictionary<(Standing Standing, FileUse Use), Weight> _weights = [];
    private readonly SortedDictionary<string, int> _away = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, int> _leftOut = new(StringComparer.Ordinal);

    /// <summary>The tally of an inventory.</summary>
    /// <param name="inventory">The inventory.</param>
    /// <param name="isLeftOut">True for an outside file that somebody chose to leave outside; null when nobody chose.</param>
    public static SessionTally Of(SessionInventory inventory, Func<InventoryFile, bool>? isLeftOut = null)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        var tally = new SessionTally();
        foreach (var file in inventory.Files)
        {
            tally.Count(file, isLeftOut?.Invoke(file) ?? false, 1);
        }
        return tally;
    }

    /// <summary>The weights, in the order of standing and use.</summary>
    public IReadOnlyDictionary<(Standing Standing, FileUse Use), Weight> Weights => _weights;

    /// <summary>Files that the current document needs and that are missing.</summary>
    public int Missing { get; private set; }

    /// <summary>Those of them that stand in their place but for the way it is written.</summary>
    public int WrittenOtherwise { get; private set; }

    /// <summary>Files that the current document needs and that are away, by the names of their shelves; empty for none.</summary>
    public IReadOnlyDictionary<string, int> Away => _away;

    /// <summary>Files that the current document needs, that stand outside, and that nobody left there by choice.</summary>
    public int AtRisk { get; private set; }

    /// <summary>Their bytes.</summary>
    public long AtRiskBytes { get; private set; }

    /// <summary>Files that the current document needs and that were left outside by choice, by the names of their shelves; empty for none.</summary>
    public IReadOnlyDictionary<string, int> LeftOut => _leftOut;

    /// <summary>The weight of all files that stand somewhere, used in one of these ways; in any where none is named.</summary>
    public Weight Of(Standing standing, params ReadOnlySpan<FileUse> uses)
    {
        var sum = default(Weight);
        foreach (var (key, weight) in _weights)
        {
            if (key.Standing == standing && (uses.IsEmpty || uses.Contains(key.Use)))
            {
                sum = new Weight(sum.Files + weight.Files, sum.Bytes + weight.Bytes, sum.NotKnown + weight.NotKnown);
            }
        }
        return sum;
    }

    /// <summary>Counts a file in, or out as it was counted in.</summary>
    /// <param name="file">The file.</param>
    /// <param name="isLeftOut">True where somebody chose to leave it outside.</param>
    /// <param name="sign">1 for in, -1 for out.</param>
    public void Count(InventoryFile file, bool isLeftOut, int sign)
    {
        ArgumentNullException.ThrowIfNull(file);
        var key = (file.Standing, file.Use);
        var (files, bytes, notKnown) = _weights.GetValueOrDefault(key);
        var known = file.Known;
        Put(_weights, key, new Weight(files + sign, bytes + (sign * (known?.Bytes ?? 0)), notKnown + (known is null ? sign : 0)), w => w.Files == 0);
        // What only an older version points at is silent only there.
        if (!file.IsNeededNow)
        {
            return;
        }
        switch (file.Standing)
        {
            case Standing.Missing:
                Missing += sign;
                WrittenOtherwise += file.WrittenOtherwise is null ? 0 : sign;
                break;
            case Standing.Away:
                Put(_away, file.ShelfName ?? "", _away.GetValueOrDefault(file.ShelfName ?? "") + sign, n => n == 0);
                break;
            case Standing.Outside when isLeftOut:
                Put(_leftOut, file.ShelfName ?? "", _leftOut.GetValueOrDefault(file.ShelfName ?? "") + sign, n => n == 0);
                break;
            case Standing.Outside:
                (AtRisk, AtRiskBytes) = (AtRisk + sign, AtRiskBytes + (sign * file.Bytes));
                break;
        }
    }

    private static void Put<TKey, TValue>(SortedDictionary<TKey, TValue> of, TKey key, TValue value, Func<TValue, bool> isNothing)
        where TKey : notnull
    {
        if (isNothing(value))
        {
            of.Remove(key);
        }
        else
        {
            of[key] = value;
        }
    }
}
