using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

/// <summary>Another origin with something done to its sound on the way. The file is new in its own right.</summary>
/// <param name="From">What is read.</param>
/// <param name="Transform">What is done.</param>
/// <param name="FromBytes">Bytes of what is read, where that stands in no file of its own; 0 for one that does.</param>
public sealed record Transformed(FileOrigin From, FileTransform Transform, long FromBytes = 0) : FileOrigin
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => Transform.Verb;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string? Source => From.Source;

    /// <inheritdoc/>
    [JsonIgnore]
    public override WholeFile? Original => From.Original;

    /// <inheritdoc/>
    [JsonIgnore]
    public override long ScratchBytes => From.ScratchBytes + FromBytes;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { From = From.Moved(path) };

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => From.Refusals(reading);

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        ArgumentNullException.ThrowIfNull(reading);
        if (From is WholeFile file)
        {
            using var source = reading.Files.OpenAsPlanned(file.Path, file.Expected);
            Apply(sink, file.Path, reading);
            source.RequireUnchanged(file.Path, file.Expected);
            return default;
        }
        // Sound is read here and there, which only a file allows.
        var scratch = sink.Scratch(ScratchUse.Source);
        using (var unpacked = new ScratchFile(scratch, reading.Files))
        {
            From.WriteTo(unpacked, reading);
        }
        Apply(sink, scratch, reading);
        reading.Files.Remove(scratch);
        return default;
    }

    private void Apply(IByteSink sink, string source, OriginReading reading)
    {
        if (sink.Seekable is { } stream)
        {
            Transform.WriteTo(stream, source, reading.Cancel);
            return;
        }
        var scratch = sink.Scratch(ScratchUse.Made);
        using (var made = new ScratchFile(scratch, reading.Files))
        {
            Transform.WriteTo(made, source, reading.Cancel);
        }
        using (var file = reading.Files.OpenSource(scratch))
        {
            sink.Copy(file, scratch, 0, file.Facts.Bytes, reading.Cancel);
        }
        reading.Files.Remove(scratch);
    }
}
