using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Backups;

/// <summary>Plans to let kept states of documents go, for good.</summary>
public static class ThinningPlanner
{
    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="places">The places that hold states.</param>
    /// <param name="going">Names of the states that go.</param>
    public static Plan Plan(Guid sessionId, IReadOnlyList<KeptDocuments> places, IReadOnlySet<string> going)
    {
        ArgumentNullException.ThrowIfNull(places);
        ArgumentNullException.ThrowIfNull(going);
        var found = places.SelectMany(p => p.All().Where(k => going.Contains(k.Name)).SelectMany(k => KeptDocuments.FilesOf(k).Select(n => (Place: p, Kept: k, Path: Path.Combine(p.Folder, n))))).ToList();
        var states = found.Select(f => f.Kept.Name).Distinct(StringComparer.Ordinal).Count();
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.Thin,
            SessionId = sessionId,
            Sentence = $"Let {ByteText.Count(states, "kept save")} go for good, {ByteText.Of(found.Sum(f => f.Kept.Bytes))}; a newer one of the same hour, day or week stays for each.",
            WritableRoots = [.. found.Select(f => f.Place.Folder).Distinct(StringComparer.Ordinal)],
            Steps = [.. found.Select(f => new DeleteFileStep(f.Path, "a newer one stays", ByteIdentity.OfFile(f.Path)))],
            Refusals = found.Count == 0 ? [new Fault(FaultCode.NothingToDo)] : [],
        };
    }
}
