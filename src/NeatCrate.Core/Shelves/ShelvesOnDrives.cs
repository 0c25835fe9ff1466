using System.Collections.Immutable;

namespace NeatCrate.Core.Shelves;

/// <summary>
/// Tells which shelves are on one drive. Which those are shows while both are there; of one that is away it is remembered from then, since
/// the system's number of a drive is another one after it was plugged in again.
/// </summary>
/// <param name="Labels">By shelf, what its drive is called: the same for all on one drive.</param>
public sealed record ShelvesOnDrives(ImmutableDictionary<Guid, Guid> Labels)
{
    /// <summary>Nothing is known of any shelf.</summary>
    public static ShelvesOnDrives Unknown { get; } = new(ImmutableDictionary<Guid, Guid>.Empty);

    /// <summary>Takes in how things are now.</summary>
    /// <param name="now">All known shelves with what tells their drives apart at this moment; null for one that is away.</param>
    /// <returns>This one where nothing is otherwise.</returns>
    public ShelvesOnDrives With(IReadOnlyCollection<(Guid Shelf, string? Drive)> now)
    {
        ArgumentNullException.ThrowIfNull(now);
        var labels = ImmutableDictionary.CreateBuilder<Guid, Guid>();
        foreach (var (shelf, _) in now.Where(n => n.Drive is null && Labels.ContainsKey(n.Shelf)))
        {
            labels[shelf] = Labels[shelf];
        }
        var taken = new HashSet<Guid>();
        foreach (var drive in now.Where(n => n.Drive is not null).GroupBy(n => n.Drive, StringComparer.Ordinal))
        {
            // One that left for another drive must not take the name along that the others go on with.
            var label = drive.Select(d => Labels.GetValueOrDefault(d.Shelf)).FirstOrDefault(l => l != default && !taken.Contains(l));
            label = label == default ? Guid.NewGuid() : label;
            taken.Add(label);
            foreach (var (shelf, _) in drive)
            {
                labels[shelf] = label;
            }
        }
        return labels.Count == Labels.Count && labels.All(l => Labels.TryGetValue(l.Key, out var before) && before == l.Value) ? this : new ShelvesOnDrives(labels.ToImmutable());
    }

    /// <summary>What the drive of a shelf is called; one of which nothing is known is on a drive of its own.</summary>
    /// <param name="shelf">The shelf.</param>
    public string Of(Guid shelf) => Labels.GetValueOrDefault(shelf, shelf).ToString();
}
