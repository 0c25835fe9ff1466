using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Backups;

/// <summary>A known session, as backups may be of it.</summary>
/// <param name="Id">Its identity among the sessions known here.</param>
/// <param name="DocumentSessionId">The identity that its document carries, which goes where the session goes; null where it carries none.</param>
/// <param name="Folder">Absolute path of its folder.</param>
/// <param name="KnownSinceMs">When it became known, in milliseconds since 1970 (UTC).</param>
public sealed record BackedUpSession(Guid Id, Guid? DocumentSessionId, string Folder, long KnownSinceMs);

/// <summary>
/// Says whose a backup is. A copied folder shares the identity in its document with the original: then the folder that the backup was
/// made of tells them apart, its name where nobody wrote the folder down, and in the end which one is known longer; never both.
/// </summary>
public static class BackupOwners
{
    /// <summary>By what backups know a session again.</summary>
    public static Guid KeyOf(BackedUpSession session)
    {
        ArgumentNullException.ThrowIfNull(session);
        return session.DocumentSessionId ?? session.Id;
    }

    /// <summary>True for a backup of this session.</summary>
    /// <param name="header">What the backup says of itself.</param>
    /// <param name="session">The session.</param>
    /// <param name="sharing">All known sessions whose documents carry the same identity, this one among them.</param>
    public static bool IsOf(BackupHeader header, BackedUpSession session, IReadOnlyList<BackedUpSession> sharing)
    {
        ArgumentNullException.ThrowIfNull(header);
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(sharing);
        if (header.Session == session.Id)
        {
            return true;
        }
        if (session.DocumentSessionId is not { } identity)
        {
            // A document that nobody can read has no identity; then the name of the folder tells, should the database be lost.
            return header.Folder == Path.GetFileName(session.Folder);
        }
        return header.Session == identity && (sharing.Count < 2 || OwnerOf(header, sharing).Id == session.Id);
    }

    private static BackedUpSession OwnerOf(BackupHeader header, IReadOnlyList<BackedUpSession> sharing)
    {
        if (sharing.FirstOrDefault(s => s.Folder == header.Stood) is { } there)
        {
            return there;
        }
        var named = sharing.Where(s => Path.GetFileName(s.Folder) == header.Folder).ToList();
        return (named.Count > 0 ? named : sharing).MinBy(s => (s.KnownSinceMs, s.Id))!;
    }
}
