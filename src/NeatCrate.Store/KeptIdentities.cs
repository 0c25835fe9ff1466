using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Store;

/// <summary>Identities that were worked out before, kept while a file's size and time of change stay.</summary>
public sealed class KeptIdentities(StoreFiles files) : IIdentities
{
    /// <inheritdoc/>
    public FileIdentities Identify(string path, MediaHeader? header, CancellationToken cancel)
    {
        var state = FileState.Of(path);
        if (Known(path, state, header) is { } known)
        {
            return known;
        }
        var identities = FileIdentities.OfFile(path, header, cancel);
        // One that changed while it was read has an identity that nobody needs to remember.
        if (FileState.Of(path) == state)
        {
            Keep(path, state, identities);
        }
        return identities;
    }

    private FileIdentities? Known(string path, FileState state, MediaHeader? header)
    {
        using var db = files.NewDb();
        return db.Identities.AsNoTracking().FirstOrDefault(i => i.Path == path) is { } row
            && row.Bytes == state.Bytes && row.ChangedTicks == state.ChangedUtc.Ticks && (row.Sound is not null || header is null)
            ? new FileIdentities(ByteIdentity.Parse($"{row.Bytes}:{row.Hash}"), row.Sound is null ? null : SoundIdentity.Parse(row.Sound))
            : null;
    }

    private void Keep(string path, FileState state, FileIdentities identities)
    {
        using var db = files.NewDb();
        var (hash, sound) = (identities.Bytes.Hex, identities.Sound?.ToString());
        db.Database.ExecuteSql($"""
            INSERT INTO Identities (Path, Bytes, ChangedTicks, Hash, Sound) VALUES ({path}, {state.Bytes}, {state.ChangedUtc.Ticks}, {hash}, {sound})
            ON CONFLICT (Path) DO UPDATE SET Bytes = excluded.Bytes, ChangedTicks = excluded.ChangedTicks, Hash = excluded.Hash, Sound = excluded.Sound
            """);
    }
}
