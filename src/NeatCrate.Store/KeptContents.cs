using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Store;

/// <summary>
/// The SHA-512 of files that went into a vault, so that the next backup reads only what changed. One is trusted as long as size, time of
/// change and number on the drive are the same and the system noted no other change, and where the file had not just been changed
/// when it was read: a change within the same step of the clock would not show.
/// </summary>
public sealed class KeptContents(StoreFiles files, TimeProvider time) : IContentMemory
{
    private const int MostWaiting = 200;

    private readonly ConcurrentQueue<ContentRow> _waiting = new();
    private readonly Lazy<ConcurrentDictionary<string, Noted>> _known = new(() =>
    {
        using var db = files.NewDb();
        return new ConcurrentDictionary<string, Noted>(
            db.Contents.AsNoTracking().AsEnumerable().Select(r => KeyValuePair.Create(r.Path, new Noted(r.Bytes, r.ModifiedTicks, r.Number, r.StatusTicks, ContentHash.TryParse(r.Sha512, out var hash) ? hash : default))),
            StringComparer.Ordinal);
    });

    private readonly record struct Noted(long Bytes, long ModifiedTicks, long Number, long StatusTicks, ContentHash Hash);

    /// <inheritdoc/>
    public ContentHash? Known(string path, FileFacts facts) =>
        _known.Value.TryGetValue(path, out var noted) && noted == new Noted(facts.Bytes, facts.ModifiedUtc.Ticks, (long)facts.Inode, FileFacts.StatusChangeOf(path) ?? 0, noted.Hash) ? noted.Hash : null;

    /// <summary>What was noted of a file in this state, whether it is there or not.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="bytes">Its size then.</param>
    /// <param name="modifiedUtc">Its time of the last change then.</param>
    public ContentHash? Recall(string path, long bytes, DateTime modifiedUtc) =>
        _known.Value.TryGetValue(path, out var noted) && noted.Bytes == bytes && noted.ModifiedTicks == modifiedUtc.Ticks ? noted.Hash : null;

    /// <inheritdoc/>
    public void Note(string path, FileFacts facts, ContentHash hash)
    {
        if (!FileFacts.IsSettled(facts.ModifiedUtc, time.GetUtcNow().UtcDateTime) || FileFacts.StatusChangeOf(path) is not { } status)
        {
            return;
        }
        _known.Value[path] = new Noted(facts.Bytes, facts.ModifiedUtc.Ticks, (long)facts.Inode, status, hash);
        _waiting.Enqueue(new ContentRow { Path = path, Bytes = facts.Bytes, ModifiedTicks = facts.ModifiedUtc.Ticks, Number = (long)facts.Inode, StatusTicks = status, Sha512 = hash.ToString() });
        if (_waiting.Count >= MostWaiting)
        {
            Write();
        }
    }

    /// <summary>Writes down what was taken in since.</summary>
    public void Write()
    {
        using var db = files.NewDb();
        using var transaction = db.Database.BeginTransaction();
        while (_waiting.TryDequeue(out var row))
        {
            db.Database.ExecuteSql($"""
                INSERT INTO Contents (Path, Bytes, ModifiedTicks, Number, StatusTicks, Sha512) VALUES ({row.Path}, {row.Bytes}, {row.ModifiedTicks}, {row.Number}, {row.StatusTicks}, {row.Sha512})
                ON CONFLICT (Path) DO UPDATE SET Bytes = excluded.Bytes, ModifiedTicks = excluded.ModifiedTicks, Number = excluded.Number, StatusTicks = excluded.StatusTicks, Sha512 = excluded.Sha512
                """);
        }
        transaction.Commit();
    }
}
