using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

/// <summary>A whole file, which is left alone. Its time and its permissions come along.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Expected">The file as the plan saw it.</param>
public sealed record WholeFile(string Path, FileState Expected) : FileOrigin
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "copy";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Source => Path;

    /// <inheritdoc/>
    [JsonIgnore]
    public override WholeFile Original => this;

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Path = path(Path) };
    }

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => RefusalsOf(Path, Expected, reading);

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(reading);
        using var from = reading.Files.OpenAsPlanned(Path, Expected);
        sink.Copy(from, Path, 0, Expected.Bytes, reading.Cancel);
        // What changed while it was read is a mixture that never was.
        from.RequireUnchanged(Path, Expected);
        var facts = from.Facts;
        return new KeptMarks(Expected.ModifiedUtc, facts.ModifiedRest, facts.Mode);
    }
}
