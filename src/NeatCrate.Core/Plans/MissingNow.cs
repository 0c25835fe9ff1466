using System.Collections.Immutable;

namespace NeatCrate.Core.Plans;

/// <summary>
/// Notes with files that come back to places where documents miss them which documents those are. An undo makes them miss the files
/// again, as they did before; a document that came to need one since then still keeps it from going.
/// </summary>
public static class MissingNow
{
    /// <summary>The same steps, each new file with the documents that miss it now.</summary>
    /// <param name="steps">The steps.</param>
    /// <param name="users">Tells who points at files; null where nobody does.</param>
    public static IEnumerable<PlanStep> Noted(IReadOnlyCollection<PlanStep> steps, IFileUsers? users)
    {
        ArgumentNullException.ThrowIfNull(steps);
        var places = steps.OfType<MakeFileStep>().Select(s => s.Destination).ToHashSet(StringComparer.Ordinal);
        var missing = (places.Count == 0 ? null : users?.PointingAt(places, ImmutableDictionary<string, byte[]>.Empty))?.ToLookup(u => u.Path, u => u.DocumentPath, StringComparer.Ordinal);
        return missing is null ? steps : steps.Select(s => s is MakeFileStep made && missing.Contains(made.Destination) ? made with { MissedBy = [.. missing[made.Destination].Distinct(StringComparer.Ordinal)] } : s);
    }
}
