namespace NeatCrate.Core.Plans;

/// <summary>Follows a folder that was moved or renamed: a plan that was applied before then is about the same files in another place.</summary>
public static class PlanMove
{
    /// <summary>The plan with every path in one folder taken to the same place in another one.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="from">Absolute path that the folder had.</param>
    /// <param name="to">Absolute path that it has now.</param>
    public static Plan Moved(Plan plan, string from, string to)
    {
        ArgumentNullException.ThrowIfNull(plan);
        string Path(string path) => path == from || path.StartsWith(from + "/", StringComparison.Ordinal) ? to + path[from.Length..] : path;
        PlanStep Step(PlanStep step)
        {
            var moved = step with { Destination = Path(step.Destination) };
            return moved switch
            {
                CopyFileStep copy => copy with { Source = Path(copy.Source) },
                MoveFileStep move => move with { Source = Path(move.Source) },
                AssembleFileStep assemble => assemble with { Source = Path(assemble.Source) },
                ConvertFileStep convert => convert with { Source = Path(convert.Source) },
                RepointDocumentStep repoint => repoint with { Pointers = [.. repoint.Pointers.Select(p => p with { Copy = Path(p.Copy) })] },
                RemoveCopyStep { Original: { } original } remove => remove with { Original = Path(original) },
                _ => moved,
            };
        }
        return plan with { WritableRoots = [.. plan.WritableRoots.Select(Path)], Steps = [.. plan.Steps.Select(Step)] };
    }
}
