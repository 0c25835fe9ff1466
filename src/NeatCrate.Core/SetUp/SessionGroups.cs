using System.Collections.Immutable;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>
/// Tells which documents in one folder are versions of one session: those with the same identity; else those with the
/// same title; else those that share half of their media. Documents with different identities are never one session.
/// </summary>
internal static class SessionGroups
{
    private const double SharedHalf = 0.5;

    /// <summary>The sessions that have a document at the top level, the one with the newest document first.</summary>
    public static IEnumerable<SessionGroup> Of(ImmutableArray<FoundDocument> documents, string folder)
    {
        var groups = new List<List<FoundDocument>>();
        // Those that carry an identity found the groups, and the others find theirs.
        foreach (var document in documents.Where(d => d.Problem is null).OrderBy(d => d.SessionId is null).ThenByDescending(d => d.ModifiedUtc))
        {
            var own = groups.Find(g => IsSame(document, g, folder));
            if (own is null)
            {
                groups.Add(own = []);
            }
            own.Add(document);
        }
        return groups.Where(g => g.Exists(d => d.AtTop))
            .Select(g => g.OrderByDescending(d => d.AtTop).ThenByDescending(d => d.ModifiedUtc).ToImmutableArray())
            .OrderByDescending(g => g[0].ModifiedUtc)
            .Select(g => new SessionGroup(g[0].Title, g));
    }

    private static bool IsSame(FoundDocument document, List<FoundDocument> group, string folder)
    {
        if (document.SessionId is { } id)
        {
            return group.Exists(d => d.SessionId == id);
        }
        return group.Exists(d => PortableName.ClashKey(d.Title) == PortableName.ClashKey(document.Title)) || SharesHalf(document, group, folder);
    }

    private static bool SharesHalf(FoundDocument document, List<FoundDocument> group, string folder)
    {
        var media = document.Media.Where(m => ShelfPath.IsWithin(m, folder)).ToHashSet(StringComparer.Ordinal);
        var others = group.SelectMany(d => d.Media).Where(m => ShelfPath.IsWithin(m, folder)).ToHashSet(StringComparer.Ordinal);
        var smaller = Math.Min(media.Count, others.Count);
        return smaller > 0 && media.Count(others.Contains) >= SharedHalf * smaller;
    }
}
