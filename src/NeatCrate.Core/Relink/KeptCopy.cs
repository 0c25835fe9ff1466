using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Relink;

/// <summary>Where the bytes of a file are kept under no name of their own: as content of a vault, or in a bundle.</summary>
/// <param name="Holder">What holds it, for whoever is told.</param>
/// <param name="Path">Absolute path of the content in the vault, or of the bundle.</param>
/// <param name="Entry">Full name of its entry in the bundle; null for content of a vault.</param>
/// <param name="Content">Its SHA-512, as the backup or the bundle states it.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="ModifiedUtc">Its time of the last change.</param>
/// <param name="Mode">Its permission bits; null where they were not kept.</param>
public sealed record KeptCopy(string Holder, string Path, string? Entry, ContentHash Content, long Bytes, DateTime ModifiedUtc, int? Mode)
{
    /// <summary>What a plan makes the file from; it is held to the SHA-512 when it is written.</summary>
    /// <param name="name">The file that it is taken for.</param>
    /// <exception cref="FaultException">It is not there any more, or is not as it was.</exception>
    public FileOrigin Origin(string name)
    {
        var state = FileState.Of(Path);
        return Entry is { } entry ? new ArchiveEntry(Path, state, entry, Bytes, Content.ToString())
            : state.Bytes == Bytes ? new VaultContent(VaultNames.StoreOf(Path, Content), VaultNames.Of(Content), Bytes, Content.ToString(), name, new KeptMarks(ModifiedUtc, 0, Mode))
            : throw new FaultException(new Fault(FaultCode.BackupContentDamaged) { Path = Path, Name = name });
    }

    /// <summary>Reads it for the identity of its bytes; what is not the content that was stated has none.</summary>
    /// <param name="name">The file that it is taken for.</param>
    /// <param name="reading">What it is read with.</param>
    /// <exception cref="FaultException">It is not there any more, cannot be read, or is damaged.</exception>
    public ByteIdentity Identify(string name, OriginReading reading)
    {
        using var sink = new HashingSink();
        Origin(name).WriteTo(sink, reading);
        return new ByteIdentity(sink.Length, sink.Hash);
    }
}
