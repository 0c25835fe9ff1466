namespace NeatCrate.Core.Plans;

/// <summary>Makes a plan again that was applied and undone.</summary>
public static class RedoPlanner
{
    private const string Prefix = "Redo: ";

    /// <summary>
    /// The same steps once more: after an undo all stands as they expect it. Whether it still does shows in
    /// <see cref="Runner.Refusals"/>.
    /// </summary>
    /// <param name="undone">The plan that was undone.</param>
    /// <param name="undo">The undo, which counts as undone itself afterwards.</param>
    public static Plan Plan(Plan undone, Plan undo)
    {
        ArgumentNullException.ThrowIfNull(undone);
        ArgumentNullException.ThrowIfNull(undo);
        if (undo.Undoes != undone.Id)
        {
            throw new ArgumentException("The plan is not the undo of the other one.", nameof(undo));
        }
        return undone with
        {
            Id = Guid.NewGuid(),
            Held = [],
            Undoes = undo.Id,
            Sentence = undone.Sentence.StartsWith(Prefix, StringComparison.Ordinal) ? undone.Sentence : Prefix + undone.Sentence,
        };
    }

    /// <summary>
    /// The undo that can be redone: the last one of a session after which nothing new was done. What was redone can be
    /// followed by the redo of what was undone before it.
    /// </summary>
    /// <param name="applied">Plans of the session that were applied, the newest first: identity, kind, and which plan each undoes.</param>
    public static Guid? Redoable(IEnumerable<(Guid Id, PlanKind? Kind, Guid? Undoes)> applied)
    {
        ArgumentNullException.ThrowIfNull(applied);
        var undone = new HashSet<Guid>();
        foreach (var (id, kind, undoes) in applied)
        {
            if (undoes is { } other)
            {
                undone.Add(other);
            }
            if (undone.Contains(id) || (kind != PlanKind.Undo && undoes is not null))
            {
                continue;
            }
            return kind == PlanKind.Undo ? id : null;
        }
        return null;
    }
}
