namespace NeatCrate.Core.Vault;

/// <summary>A folder of a session in a backup.</summary>
/// <param name="Path">Its path from the session folder; empty for that itself.</param>
/// <param name="Mode">Its permission bits; null where they were not noted.</param>
/// <param name="Time">Its time, in nanoseconds since 1970; null where it was not noted.</param>
/// <param name="IsEmpty">True where nothing stood in it.</param>
public sealed record BackupFolder(string Path, int? Mode, long? Time, bool IsEmpty);

/// <summary>Where a pointer of a document led when a backup was made.</summary>
/// <param name="Url">The pointer as it is written.</param>
/// <param name="Path">The absolute path that it meant.</param>
public sealed record BackupPointer(string Url, string Path);

/// <summary>The pointers of a document that would lead elsewhere from another place.</summary>
/// <param name="Document">Path of the document from the session folder.</param>
/// <param name="Pointers">The pointers.</param>
public sealed record BackupPointers(string Document, System.Collections.Immutable.ImmutableArray<BackupPointer> Pointers);
