using System.Collections.Immutable;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace NeatCrate.Core.Faults;

/// <summary>What stands in the way, as a code with its facts. Which facts go with a code stands at <see cref="FaultCode"/>.</summary>
/// <param name="Code">What it is.</param>
public sealed record Fault(FaultCode Code)
{
    private static readonly JsonSerializerOptions Json = new()
    {
        Converters = { new JsonStringEnumConverter() },
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    };

    /// <summary>Absolute path of the file or folder that it is about.</summary>
    public string? Path { get; init; }

    /// <summary>Another path or name that goes with it.</summary>
    public string? Other { get; init; }

    /// <summary>A name: of a session, a shelf, a track, a schema.</summary>
    public string? Name { get; init; }

    /// <summary>Several names.</summary>
    public ImmutableArray<string> Names { get; init; } = [];

    /// <summary>Bytes that are needed.</summary>
    public long? Bytes { get; init; }

    /// <summary>Bytes that are free.</summary>
    public long? Free { get; init; }

    /// <summary>A number of things.</summary>
    public long? Count { get; init; }

    /// <summary>The number that was expected.</summary>
    public long? Expected { get; init; }

    /// <summary>How many things have what <see cref="Count"/> and <see cref="Expected"/> compare.</summary>
    public long? Number { get; init; }

    /// <summary>A time, in seconds.</summary>
    public double? Seconds { get; init; }

    /// <summary>The end of that time, in seconds.</summary>
    public double? UntilSeconds { get; init; }

    /// <summary>What the operating system or a library says.</summary>
    public string? Detail { get; init; }

    /// <summary>What it comes from.</summary>
    public ImmutableArray<Fault> Reasons { get; init; } = [];

    /// <summary>True for a file that is to be read and cannot be had, in contrast to a drive that does not take what is written.</summary>
    [JsonIgnore]
    public bool IsOfSource => Code is FaultCode.SourceGone or FaultCode.SourceChanged or FaultCode.SourceTooShort or FaultCode.SourceUnreadable or FaultCode.SoundCutShort
        or FaultCode.ArchiveEntryDamaged or FaultCode.BackupContentDamaged;

    /// <summary>Faults as text, for the journal.</summary>
    public static string Write(IEnumerable<Fault> faults) => JsonSerializer.Serialize(faults.ToArray(), Json);

    /// <summary>Reads what <see cref="Write"/> wrote; null for any other text, such as notes of earlier versions.</summary>
    public static ImmutableArray<Fault>? Read(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        try
        {
            return text.StartsWith('[') ? JsonSerializer.Deserialize<ImmutableArray<Fault>>(text, Json) : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>Code and facts in one line, for logs; not for the user.</summary>
    public override string ToString() => JsonSerializer.Serialize(this, Json);

    /// <inheritdoc/>
    public bool Equals(Fault? other) => other is not null && ToString() == other.ToString();

    /// <inheritdoc/>
    public override int GetHashCode() => ToString().GetHashCode(StringComparison.Ordinal);
}

/// <summary>Something failed for a reason that has a code. The sentence for the user is made from the fault at the edge.</summary>
public class FaultException : IOException
{
    /// <summary>Makes the exception.</summary>
    public FaultException(Fault fault, Exception? inner = null) : base(fault?.ToString(), inner) => Fault = fault ?? new Fault(FaultCode.Unexpected);

    /// <summary>Makes the exception for a code that is about a path.</summary>
    public FaultException(FaultCode code, string? path = null, Exception? inner = null) : this(new Fault(code) { Path = path }, inner)
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public FaultException() : this(new Fault(FaultCode.Unexpected))
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public FaultException(string message) : this(new Fault(FaultCode.Unexpected) { Detail = message })
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public FaultException(string message, Exception inner) : this(new Fault(FaultCode.Unexpected) { Detail = message }, inner)
    {
    }

    /// <summary>What failed.</summary>
    public Fault Fault { get; }

    /// <summary>The fault that an exception of any kind stands for; null for one that is a mistake in the program.</summary>
    public static Fault? Of(Exception exception, string? path = null) => exception switch
    {
        FaultException known => known.Fault,
        UnauthorizedAccessException => new Fault(FaultCode.NotAllowed) { Path = path, Detail = exception.Message },
        FileNotFoundException or DirectoryNotFoundException => new Fault(FaultCode.NotThere) { Path = path, Detail = exception.Message },
        IOException => new Fault(FaultCode.CannotRead) { Path = path, Detail = exception.Message },
        // A library may put its own exception around it.
        { InnerException: FaultException inner } => inner.Fault,
        _ => null,
    };
}
