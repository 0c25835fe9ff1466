using System.Buffers;
using System.IO.Hashing;
using System.Security.Cryptography;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>An entry of a ZIP archive, which is left alone. It must have the size and the checksum that the archive's directory gives.</summary>
/// <param name="Archive">Absolute path of the archive.</param>
/// <param name="Expected">The archive as the plan saw it.</param>
/// <param name="Name">Full name of the entry.</param>
/// <param name="Bytes">Its size unpacked; more than that is never written.</param>
/// <param name="Sha512">The SHA-512 that it must have as well, in hexadecimal digits, as a bag's manifest states it; null where nobody states one.</param>
public sealed record ArchiveEntry(string Archive, FileState Expected, string Name, long Bytes, string? Sha512 = null) : FileOrigin
{
    private const int BufferBytes = 256 * 1024;

    /// <summary>True for an entry of a bag, which is brought back and not merely unpacked.</summary>
    [JsonIgnore]
    public bool IsHeldToACheckSum => Sha512 is not null;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => IsHeldToACheckSum ? "bring back" : "unpack";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Source => Archive;

    // A bundle may be thrown away before the undo; what was brought back out of it goes as long as it is that.
    /// <inheritdoc/>
    [JsonIgnore]
    public override WholeFile? Original => IsHeldToACheckSum ? null : new WholeFile(Archive, Expected);

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Archive = path(Archive) };
    }

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => RefusalsOf(Archive, Expected, reading);

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        var archive = reading.Archive(Archive, Expected);
        // A name that stands twice may be either.
        var entry = archive.Only(Name) ?? throw Damaged();
        try
        {
            using var stream = entry.Open();
            var (crc, start) = (new Crc32(), sink.Length);
            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
            var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
            try
            {
                for (int count; (count = stream.Read(buffer, 0, BufferBytes)) > 0;)
                {
                    reading.Cancel.ThrowIfCancellationRequested();
                    if (sink.Length - start + count > Bytes)
                    {
                        throw Damaged();
                    }
                    crc.Append(buffer.AsSpan(0, count));
                    if (Sha512 is not null)
                    {
                        hash.AppendData(buffer, 0, count);
                    }
                    sink.Write(buffer.AsSpan(0, count));
                }
            }
            finally
            {
                ArrayPool<byte>.Shared.Return(buffer);
            }
            // The library's own reader checks neither.
            if (sink.Length - start != Bytes || crc.GetCurrentHashAsUInt32() != entry.Crc32 || (Sha512 is { } stated && ContentHash.Take(hash).ToString() != stated))
            {
                throw Damaged();
            }
            archive.RequireUnchanged();
            return new KeptMarks(entry.LastWriteTime.Year > 1980 ? entry.LastWriteTime.UtcDateTime : null, 0, IsHeldToACheckSum ? ModeOf(entry.ExternalAttributes) : null);
        }
        catch (InvalidDataException)
        {
            throw Damaged();
        }
    }

    /// <summary>The permissions that stand in the upper half of the attributes where the archive was made on Unix (Info-ZIP); none elsewhere.</summary>
    private static int? ModeOf(int attributes) => ((attributes >> 16) & 0x1FF) is var mode and not 0 ? mode : null;

    private FaultException Damaged() => new(new Fault(FaultCode.ArchiveEntryDamaged) { Path = Archive, Name = Name });
}
