using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Origins;

/// <summary>Bytes that the plan itself holds, as those of a document.</summary>
/// <param name="Content">The bytes.</param>
public sealed record GivenBytes(byte[] Content) : FileOrigin
{
    /// <summary>What comes along beside them, as from the document that they were made of; nothing for a new file.</summary>
    public KeptMarks Marks { get; init; }

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "write";

    /// <inheritdoc/>
    public override IEnumerable<Fault> Refusals(OriginReading reading) => [];

    /// <inheritdoc/>
    public override KeptMarks WriteTo(IByteSink sink, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(sink);
        sink.Write(Content);
        return Marks;
    }
}
