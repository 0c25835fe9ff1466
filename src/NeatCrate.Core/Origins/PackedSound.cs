using System.Security.Cryptography;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>
/// A sound file packed as FLAC (RFC 9639) with everything that it holds beside its samples. It is decoded again before anybody gets it, and
/// must give back the file bit for bit.
/// </summary>
/// <param name="From">The file.</param>
/// <param name="Extension">The extension of its name, with the dot, which it gets again once it is brought back.</param>
public sealed record PackedSound(WholeFile From, string Extension) : FileOrigin
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "pack";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Source => From.Path;

    /// <inheritdoc/>
    [JsonIgnore]
    public override WholeFile Original => From;

    // Noise gets larger by a little.
    /// <inheritdoc/>
    [JsonIgnore]
    public override long ScratchBytes => From.Expected.Bytes + (From.Expected.Bytes / 64) + 65_536;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { From = (WholeFile)From.Moved(path) };

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => From.Refusals(reading);

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading) => Pack(sink, reading).Marks;

    /// <summary>Writes the FLAC file.</summary>
    /// <returns>What comes along, the SHA-512 of the file that was packed, and what it holds beside its samples.</returns>
    /// <exception cref="FaultException">It cannot be had, is not what the plan saw, or does not come back bit for bit.</exception>
    public (KeptMarks Marks, ContentHash Original, SoundShell Shell) Pack(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        var scratch = sink.Scratch(ScratchUse.Made);
        using var source = reading.Files.OpenAsPlanned(From.Path, From.Expected);
        (ContentHash Original, SoundShell Shell) packed;
        using (var made = new ScratchFile(scratch, reading.Files))
        {
            packed = Pack(source, made, reading.Cancel);
        }
        var facts = source.Facts;
        source.RequireUnchanged(From.Path, From.Expected);
        Prove(scratch, packed.Original, reading.Cancel);
        using (var file = reading.Files.OpenSource(scratch))
        {
            sink.Copy(file, scratch, 0, file.Facts.Bytes, reading.Cancel);
        }
        reading.Files.Remove(scratch);
        return (new KeptMarks(From.Expected.ModifiedUtc, facts.ModifiedRest, facts.Mode), packed.Original, packed.Shell);
    }

    private (ContentHash Original, SoundShell Shell) Pack(SourceFile source, Stream made, CancellationToken cancel)
    {
        try
        {
            using var bytes = new OpenBytes(source, From.Path);
            var shell = (MediaHeaderReader.Read(bytes, Path.GetExtension(From.Path)) is { } header ? SoundShell.Of(bytes, header) : null) ?? throw new FaultException(FaultCode.SourceChanged, From.Path);
            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
            FlacPacker.Pack(bytes, From.Path, shell, made, b => hash.AppendData(b), cancel);
            return (ContentHash.Take(hash), shell);
        }
        catch (UnreadableMediaException e)
        {
            throw new FaultException(new Fault(FaultCode.SourceUnreadable) { Path = From.Path, Reasons = [e.Fault] }, e);
        }
    }

    private void Prove(string packed, ContentHash original, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
        try
        {
            FlacPacker.Restore(packed, b => hash.AppendData(b), cancel);
        }
        catch (FaultException e)
        {
            throw new FaultException(new Fault(FaultCode.NotPackedWithoutLoss) { Path = From.Path, Reasons = [e.Fault] }, e);
        }
        if (ContentHash.Take(hash) != original)
        {
            throw new FaultException(FaultCode.NotPackedWithoutLoss, From.Path);
        }
    }
}
