using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>Content of a vault, which is left alone. It must have the size and the SHA-512 that its backup gives.</summary>
/// <param name="Store">Which store: the absolute path of the vault's folder.</param>
/// <param name="Name">Name of the object in it.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="Sha512">The SHA-512 that it must have, in hexadecimal digits.</param>
/// <param name="Of">The file that it is of, for whoever is told.</param>
/// <param name="Marks">What the file had beside its bytes.</param>
public sealed record VaultContent(string Store, string Name, long Bytes, string Sha512, string Of, KeptMarks Marks) : FileOrigin
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "bring back";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Source => $"{Store}/{Name}";

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Store = path(Store) };
    }

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(reading);
        var there = reading.Store(Store).Size(Name);
        if (there != Bytes)
        {
            yield return new Fault(there is null ? FaultCode.BackupContentMissing : FaultCode.BackupContentDamaged) { Path = Source, Name = Of };
        }
    }

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        try
        {
            using var stream = reading.Store(Store).Open(Name);
            // More than it must have is never written.
            var hash = stream.Length == Bytes ? ContentHash.OfStream(stream, part => sink.Write(part.Span), reading.Cancel).ToString() : "";
            return hash == Sha512 ? Marks : throw new FaultException(new Fault(FaultCode.BackupContentDamaged) { Path = Source, Name = Of });
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NotThere)
        {
            throw new FaultException(new Fault(FaultCode.BackupContentMissing) { Path = Source, Name = Of }, e);
        }
    }
}
