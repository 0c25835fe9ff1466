using System.Collections.Immutable;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Origins;

/// <summary>Several origins in a row, one behind the other in one file.</summary>
/// <param name="Parts">The origins, in order.</param>
public sealed record InARow(ImmutableArray<FileOrigin> Parts) : FileOrigin
{
    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "put together";

    /// <inheritdoc/>
    [JsonIgnore]
    public override string? Source => Parts.Select(p => p.Source).FirstOrDefault(s => s is not null);

    /// <inheritdoc/>
    [JsonIgnore]
    public override long ScratchBytes => Parts.Select(p => p.ScratchBytes).DefaultIfEmpty().Max();

    /// <inheritdoc/>
    public override FileOrigin Moved(Func<string, string> path) => this with { Parts = [.. Parts.Select(p => p.Moved(path))] };

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => Parts.SelectMany(p => p.Refusals(reading));

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        foreach (var part in Parts)
        {
            part.WriteTo(sink, reading);
        }
        return default;
    }

    /// <inheritdoc/>
    public bool Equals(InARow? other) => other is not null && Parts.SequenceEqual(other.Parts);

    /// <inheritdoc/>
    public override int GetHashCode() => Parts.Aggregate(0, HashCode.Combine);
}
