using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Store;

/// <summary>
/// Identities that were worked out before, kept by shelf and path on it, so that a shelf may come back at another place. One
/// is trusted as long as the file's size, time of change and number on the drive are the same and the system noted no other
/// change of it, and where the file had not just been changed when it was read: a change within the same step of the clock
/// would not show.
/// </summary>
public sealed class KeptIdentities(StoreFiles files, TimeProvider time) : IIdentities
{
    // FAT keeps times to two seconds.
    private static readonly TimeSpan TooRecent = TimeSpan.FromSeconds(2.1);

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
        var isSettled = time.GetUtcNow().UtcDateTime - before.ModifiedUtc > TooRecent;
        var identities = FileIdentities.OfFile(path, header, read, cancel);
        // One that changed while it was read, or may have, has an identity that nobody may remember.
        if (isSettled && Look(path) == before)
        {
            Keep(db, place, before, identities);
        }
        return identities;
    }

    private static Seen Look(string path) => FileFacts.Of(path) is { } facts && FileFacts.StatusChangeOf(path) is { } status
        ? new Seen(facts.Bytes, facts.ModifiedUtc, (long)facts.Inode, status)
        : throw new FaultException(FaultCode.NotThere, path);

    private readonly record struct Seen(long Bytes, DateTime ModifiedUtc, long Number, long StatusTicks);

    private static (Guid ShelfId, string Path) Place(NeatCrateDb db, string path)
    {
        var shelf = Shelf.Holding(db.Shelves.AsNoTracking().AsEnumerable().Select(s => s.ToShelf()), path);
        return shelf is null ? (Guid.Empty, path) : (shelf.Id, shelf.Relative(path));
    }

    private static FileIdentities? Known(NeatCrateDb db, (Guid ShelfId, string Path) place, Seen facts, MediaHeader? header) =>
        db.Identities.AsNoTracking().FirstOrDefault(i => i.ShelfId == place.ShelfId && i.Path == place.Path) is { } row
            && row.Bytes == facts.Bytes && row.ChangedTicks == facts.ModifiedUtc.Ticks && row.Number == facts.Number && row.StatusTicks == facts.StatusTicks && (row.Sound is not null || header is null)
            ? new FileIdentities(ByteIdentity.Parse($"{row.Bytes}:{row.Hash}"), row.Sound is null ? null : SoundIdentity.Parse(row.Sound))
            : null;

    private static void Keep(NeatCrateDb db, (Guid ShelfId, string Path) place, Seen facts, FileIdentities identities)
    {
        var (hash, sound) = (identities.Bytes.Hex, identities.Sound?.ToString());
        db.Database.ExecuteSql($"""
            INSERT INTO Identities (ShelfId, Path, Bytes, ChangedTicks, Number, StatusTicks, Hash, Sound)
            VALUES ({place.ShelfId}, {place.Path}, {facts.Bytes}, {facts.ModifiedUtc.Ticks}, {facts.Number}, {facts.StatusTicks}, {hash}, {sound})
            ON CONFLICT (ShelfId, Path) DO UPDATE SET Bytes = excluded.Bytes, ChangedTicks = excluded.ChangedTicks, Number = excluded.Number, StatusTicks = excluded.StatusTicks, Hash = excluded.Hash, Sound = excluded.Sound
            """);
    }
}
