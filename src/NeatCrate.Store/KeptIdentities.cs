using System.Globalization;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>What was noted of a file when it was identified.</summary>
/// <param name="Bytes">Its size then.</param>
/// <param name="ModifiedUtc">Its time of the last change then.</param>
/// <param name="Noted">Its identities.</param>
public sealed record Remembered(long Bytes, DateTime ModifiedUtc, NotedIdentities Noted)
{
    /// <summary>What was noted, where the file is still in that state: of another state nothing of it is so any more.</summary>
    public NotedIdentities? Of(long bytes, DateTime modifiedUtc) => Bytes == bytes && ModifiedUtc == modifiedUtc ? Noted : null;
}

/// <summary>
/// Identities that were worked out before, kept by shelf and path on it, so that a shelf may come back at another place. One
/// is trusted as long as the file's size, time of change and number on the drive are the same and the system noted no other
/// change of it, and where the file had not just been changed when it was read: a change within the same step of the clock
/// would not show.
/// </summary>
public sealed class KeptIdentities(StoreFiles files, TimeProvider time) : IIdentities
{
    // Who has not asked for so long reads everything anew.
    private const int MostNews = 4096;

    private readonly Lock _lock = new();
    private readonly Queue<((Guid ShelfId, string Path) Place, NotedIdentities Noted)> _news = new();
    private long _revision;

    /// <summary>Grows whenever an identity is noted.</summary>
    public long Revision => Interlocked.Read(ref _revision);

    /// <summary>What was noted since a revision, the oldest first; null where that is too long ago to be known.</summary>
    /// <param name="revision">The revision, as <see cref="Revision"/> was.</param>
    public IReadOnlyList<((Guid ShelfId, string Path) Place, NotedIdentities Noted)>? Since(long revision)
    {
        lock (_lock)
        {
            return _revision - revision is var count && count >= 0 && count <= _news.Count ? [.. _news.Skip(_news.Count - (int)count)] : null;
        }
    }

    /// <summary>Tells of what was noted. By then whoever recalls it has it.</summary>
    private void Tell((Guid ShelfId, string Path) place, NotedIdentities noted)
    {
        lock (_lock)
        {
            _news.Enqueue((place, noted));
            if (_news.Count > MostNews)
            {
                _news.Dequeue();
            }
            _revision++;
        }
    }

    /// <inheritdoc/>
    public FileIdentities Identify(string path, MediaHeader? header, Action<long>? read, CancellationToken cancel)
    {
        var before = Look(path);
        using var db = files.NewDb();
        var place = Place(db, path);
        if (Known(db, place, before, header) is { } known)
        {
            return known;
        }
        var isSettled = FileFacts.IsSettled(before.ModifiedUtc, time.GetUtcNow().UtcDateTime);
        var identities = FileIdentities.OfFile(path, header, read, cancel);
        // One that changed while it was read, or may have, has an identity that nobody may remember.
        if (isSettled && Look(path) == before)
        {
            Keep(db, place, before, identities, header?.Broadcast);
            Tell(place, new NotedIdentities(identities.Bytes.Hash, identities.Sound, null));
        }
        return identities;
    }

    /// <inheritdoc/>
    public SampleIdentity? IdentifySamples(string path, MediaHeader header, Action? between, CancellationToken cancel)
    {
        if (!SampleIdentity.IsKnownFor(header))
        {
            return null;
        }
        var before = Look(path);
        using var db = files.NewDb();
        var place = Place(db, path);
        if (Row(db, place, before) is { Samples: { } known })
        {
            return SampleIdentity.Parse(known);
        }
        var samples = SampleIdentity.OfFile(path, header, between, cancel);
        // Kept beside the other identities: without them nothing says of which state of the file it is.
        if (samples is { } told && Look(path) == before)
        {
            var text = told.ToString();
            db.Database.ExecuteSql($"""
                UPDATE Identities SET Samples = {text} WHERE ShelfId = {place.ShelfId} AND Path = {place.Path} AND Bytes = {before.Bytes}
                AND ChangedTicks = {before.ModifiedUtc.Ticks} AND Number = {before.Number} AND StatusTicks = {before.StatusTicks}
                """);
            Tell(place, new NotedIdentities(null, null, told));
        }
        return samples;
    }

    /// <summary>What is known of files by their places, whether they are there or not.</summary>
    /// <param name="places">Shelf and path from its top; <see cref="Guid.Empty"/> and an absolute path for what is on none.</param>
    /// <returns>By place, with the size and time that the file had then; what was never identified is left out.</returns>
    public IReadOnlyDictionary<(Guid ShelfId, string Path), Remembered> Recall(IReadOnlyCollection<(Guid ShelfId, string Path)> places)
    {
        ArgumentNullException.ThrowIfNull(places);
        using var db = files.NewDb();
        var known = new Dictionary<(Guid, string), Remembered>();
        foreach (var shelf in places.GroupBy(p => p.ShelfId))
        {
            var paths = JsonSerializer.Serialize(shelf.Select(p => p.Path));
            foreach (var row in db.Identities.FromSqlRaw(Lookups.IdentitiesByPath, paths, shelf.Key).AsNoTracking())
            {
                known[(row.ShelfId, row.Path)] = new Remembered(row.Bytes, new DateTime(row.ChangedTicks, DateTimeKind.Utc), NotedOf(row));
            }
        }
        return known;
    }

    /// <summary>The places of files that share an identity with one of these.</summary>
    public IReadOnlyList<(Guid ShelfId, string Path)> PlacesOf(IReadOnlyCollection<NotedIdentities> noted)
    {
        ArgumentNullException.ThrowIfNull(noted);
        using var db = files.NewDb();
        string Json(IEnumerable<string?> hashes) => JsonSerializer.Serialize(hashes.OfType<string>().Distinct());
        var bytes = Json(noted.Select(n => n.Bytes?.ToString("x32", CultureInfo.InvariantCulture)));
        var sounds = Json(noted.Select(n => n.Sound?.ToString()));
        var samples = Json(noted.Select(n => n.Samples?.ToString()));
        return
        [
            .. db.Identities.FromSqlRaw(Lookups.IdentitiesByHash, bytes, sounds, samples).AsNoTracking().Select(r => new { r.ShelfId, r.Path }).AsEnumerable().Select(r => (r.ShelfId, r.Path)),
        ];
    }

    private static NotedIdentities NotedOf(IdentityRow row) => new(
        ByteIdentity.Parse($"{row.Bytes}:{row.Hash}").Hash, row.Sound is null ? null : SoundIdentity.Parse(row.Sound), row.Samples is null ? null : SampleIdentity.Parse(row.Samples),
        row.IsSilent, row.Origin, row.TimeReference);

    private static Seen Look(string path) => FileFacts.OfWithStatus(path) is { Facts: var facts, StatusChange: var status }
        ? new Seen(facts.Bytes, facts.ModifiedUtc, (long)facts.Inode, status)
        : throw new FaultException(FaultCode.NotThere, path);

    private readonly record struct Seen(long Bytes, DateTime ModifiedUtc, long Number, long StatusTicks);

    private static (Guid ShelfId, string Path) Place(NeatCrateDb db, string path) => PlaceOf(db.Shelves.AsNoTracking().AsEnumerable().Select(s => s.ToShelf()), path);

    /// <summary>The place under which a file is remembered.</summary>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="path">Absolute path, or a pointer that is none here.</param>
    public static (Guid ShelfId, string Path) PlaceOf(IEnumerable<Shelf> shelves, string path) =>
        Shelf.Holding(shelves, path) is { } shelf ? (shelf.Id, shelf.Relative(path)) : (Guid.Empty, path);

    private static IdentityRow? Row(NeatCrateDb db, (Guid ShelfId, string Path) place, Seen facts) =>
        db.Identities.AsNoTracking().FirstOrDefault(i => i.ShelfId == place.ShelfId && i.Path == place.Path) is { } row
            && row.Bytes == facts.Bytes && row.ChangedTicks == facts.ModifiedUtc.Ticks && row.Number == facts.Number && row.StatusTicks == facts.StatusTicks
            ? row
            : null;

    private static FileIdentities? Known(NeatCrateDb db, (Guid ShelfId, string Path) place, Seen facts, MediaHeader? header) =>
        Row(db, place, facts) is { } row && (row.Sound is not null || header is null)
            ? new FileIdentities(ByteIdentity.Parse($"{row.Bytes}:{row.Hash}"), row.Sound is null ? null : SoundIdentity.Parse(row.Sound), row.IsSilent)
            : null;

    private static void Keep(NeatCrateDb db, (Guid ShelfId, string Path) place, Seen facts, FileIdentities identities, BroadcastExtension? broadcast)
    {
        var (hash, sound) = (identities.Bytes.Hex, identities.Sound?.ToString());
        // A file without words of its maker says nothing that could be compared.
        var origin = broadcast is null ? "" : string.Join('|', broadcast.Originator, broadcast.OriginatorReference, broadcast.OriginationDate, broadcast.OriginationTime);
        var (made, reference) = (origin.All(c => c == '|') ? null : origin, broadcast is null ? (long?)null : (long)Math.Min(broadcast.TimeReference, long.MaxValue));
        db.Database.ExecuteSql($"""
            INSERT INTO Identities (ShelfId, Path, Bytes, ChangedTicks, Number, StatusTicks, Hash, Sound, Samples, IsSilent, Origin, TimeReference)
            VALUES ({place.ShelfId}, {place.Path}, {facts.Bytes}, {facts.ModifiedUtc.Ticks}, {facts.Number}, {facts.StatusTicks}, {hash}, {sound}, NULL, {identities.IsSilent}, {made}, {reference})
            ON CONFLICT (ShelfId, Path) DO UPDATE SET Bytes = excluded.Bytes, ChangedTicks = excluded.ChangedTicks, Number = excluded.Number, StatusTicks = excluded.StatusTicks,
            Hash = excluded.Hash, Sound = excluded.Sound, Samples = NULL, IsSilent = excluded.IsSilent, Origin = excluded.Origin, TimeReference = excluded.TimeReference
            """);
    }
}
