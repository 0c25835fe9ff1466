using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

/// <summary>What a file has beside its bytes, and keeps where it comes to stand.</summary>
/// <param name="ModifiedUtc">Its time of the last change, in steps of 100 ns; null for that of a new file.</param>
/// <param name="ModifiedRest">What its time has beyond such a step, in nanoseconds.</param>
/// <param name="Mode">Its permission bits; null for those of a new file.</param>
public readonly record struct KeptMarks(DateTime? ModifiedUtc, int ModifiedRest, int? Mode);

/// <summary>
/// Where the bytes of a file come from: the one way in which a plan, a bundle or a backup names them. An origin says what is read and
/// what it must be (a state, a check sum), and is held to that while it is read. Names stand in the journal (docs/formats.md, "Plan").
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "from")]
[JsonDerivedType(typeof(WholeFile), "file")]
[JsonDerivedType(typeof(FileRanges), "ranges")]
[JsonDerivedType(typeof(GivenBytes), "bytes")]
[JsonDerivedType(typeof(ArchiveEntry), "archive-entry")]
[JsonDerivedType(typeof(VaultContent), "vault-content")]
[JsonDerivedType(typeof(InARow), "in-a-row")]
[JsonDerivedType(typeof(Transformed), "transformed")]
[JsonDerivedType(typeof(PrintedTrack), "printed-track")]
[JsonDerivedType(typeof(PackedSound), "packed-sound")]
public abstract record FileOrigin
{
    /// <summary>What is done with it, as a verb for the user.</summary>
    [JsonIgnore]
    public abstract string Verb { get; }

    /// <summary>What is read, for whoever is told; null for given bytes.</summary>
    [JsonIgnore]
    public virtual string? Source => null;

    /// <summary>The file that stays as the original of what is made; null where nothing does, or it may go.</summary>
    [JsonIgnore]
    public virtual WholeFile? Original => null;

    /// <summary>Bytes that are needed beside the new file while it is made.</summary>
    [JsonIgnore]
    public virtual long ScratchBytes => 0;

    /// <summary>The same origin after files were moved: every path that it holds is taken through <paramref name="path"/>.</summary>
    public virtual FileOrigin Moved(Func<string, string> path) => this;

    /// <summary>Why it cannot be read now.</summary>
    public abstract IEnumerable<Fault> Refusals(OriginReading reading);

    /// <summary>Writes the bytes.</summary>
    /// <returns>What comes along beside them.</returns>
    /// <exception cref="FaultException">They cannot be had, or are not what they must be.</exception>
    public abstract KeptMarks WriteTo(IByteSink sink, OriginReading reading);

    /// <summary>Why a file cannot be taken as it was seen.</summary>
    protected static IEnumerable<Fault> RefusalsOf(string path, FileState expected, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(reading);
        switch (reading.Files.Look(path))
        {
            case null:
                yield return new Fault(FaultCode.SourceGone) { Path = path };
                break;
            case { IsRegular: false }:
                yield return new Fault(FaultCode.NotARegularFile) { Path = path };
                break;
            case { } facts when new FileState(facts.Bytes, facts.ModifiedUtc) != expected:
                yield return new Fault(FaultCode.SourceChanged) { Path = path };
                break;
        }
    }
}
