using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>How far an applied plan is. Bytes are work: what is read back to be compared counts too.</summary>
/// <param name="StepsDone">Steps that are done.</param>
/// <param name="Steps">All steps.</param>
/// <param name="WorkDone">Bytes of work done.</param>
/// <param name="Work">Bytes of work in all.</param>
/// <param name="Current">Name of the file at hand.</param>
public readonly record struct RunProgress(int StepsDone, int Steps, long WorkDone, long Work, string Current);

/// <summary>What a step is checked with.</summary>
/// <param name="Files">The disk.</param>
/// <param name="Vacated">Names that earlier steps of the plan leave free.</param>
/// <param name="Filled">Names at which earlier steps of the plan put a file.</param>
/// <param name="Reading">What origins are looked at with.</param>
internal sealed record StepCheck(IDurableFiles Files, IReadOnlySet<string> Vacated, IReadOnlySet<string> Filled, OriginReading Reading)
{
    /// <summary>What stands in the way of a new name.</summary>
    public IEnumerable<Fault> NameTaken(string path)
    {
        if (!Vacated.Contains(path) && Files.LookAtName(path) is not null)
        {
            yield return new Fault(FaultCode.NameTaken) { Path = path };
        }
    }

    /// <summary>Why a file cannot be taken as the plan saw it.</summary>
    public IEnumerable<Fault> Source(string path, FileState expected)
    {
        switch (Files.Look(path))
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

/// <summary>What a step needs while it works.</summary>
internal sealed class StepContext(
    OriginReading reading, Guid planId, int index, Action<StepRecord> record, Action<long> worked, IReadOnlySet<string> leftOut)
{
    /// <summary>The disk.</summary>
    public IDurableFiles Files => reading.Files;

    /// <summary>What origins are read with, shared by all steps of the plan.</summary>
    public OriginReading Reading => reading;

    /// <summary>True for a file that an earlier step of the plan was to make, and could not.</summary>
    public bool IsLeftOut(string path) => leftOut.Contains(path);

    /// <summary>Stops the step between two blocks of bytes.</summary>
    public CancellationToken Cancel => reading.Cancel;

    /// <inheritdoc cref="UnwindContext.Temporary(string)"/>
    public string Temporary(string destination) => UnwindContext.Temporary(planId, index, destination);

    /// <summary>Counts bytes of work done.</summary>
    public void Worked(long bytes) => worked(bytes);

    /// <summary>Writes to the journal that the next instant gives a file its new place.</summary>
    public void AboutToMove() => record(new StepRecord(index, StepState.Staged));

    /// <summary>Writes to the journal that the new bytes stand under the temporary name, and what they replace.</summary>
    public void Staged(ByteIdentity written, byte[]? before = null, FileFacts? beforeFacts = null) =>
        record(new StepRecord(index, StepState.Staged, written, before, beforeFacts?.ModifiedUtc, beforeFacts?.ModifiedRest));

    /// <summary>Reads a whole file and tells its identity; what is read counts as work.</summary>
    public ByteIdentity Identify(string path) => reading.Files.Identify(path, worked, reading.Cancel);
}

/// <summary>What a step needs for taking itself back, and for tidying up.</summary>
internal sealed class UnwindContext(IDurableFiles files, Guid planId, int index, UnwindState state)
{
    /// <summary>The disk.</summary>
    public IDurableFiles Files => files;

    /// <summary>
    /// True when a document of the plan stays as another program saved it meanwhile: what the plan brought in is left in
    /// place then, since that document may point at it.
    /// </summary>
    public bool KeepsMade => state.KeepsMade;

    /// <summary>Says that a document stays as another program saved it.</summary>
    public void DocumentStays() => state.KeepsMade = true;

    /// <summary>The temporary name beside a destination. It follows from the plan alone, so that it is found again after a crash.</summary>
    public string Temporary(string destination) => Temporary(planId, index, destination);

    /// <inheritdoc cref="Temporary(string)"/>
    public static string Temporary(Guid planId, int index, string destination) =>
        Path.Combine(Path.GetDirectoryName(destination)!, $".neat-crate-{planId:N}-{index}.part");

    /// <summary>Absolute paths of what a step may have made for the time of the work, beside its temporary name.</summary>
    public static IEnumerable<string> Scratches(string temporary) => Enum.GetValues<ScratchUse>().Select(u => ScratchBeside(temporary, u));

    /// <summary>The name of a file for the time of the work.</summary>
    /// <param name="temporary">The step's temporary name.</param>
    /// <param name="use">What it is for.</param>
    public static string ScratchBeside(string temporary, ScratchUse use) =>
        $"{temporary[..^TemporaryExtension.Length]}-{(use == ScratchUse.Source ? "source" : "made")}{TemporaryExtension}";

    private const string TemporaryExtension = ".part";

    /// <summary>Remembers a folder in which a name changed: it is flushed before the journal says that the plan has ended.</summary>
    public void Touched(string path) => state.Touched.Add(Path.GetDirectoryName(path)!);

    /// <summary>Removes a name, if it is there.</summary>
    public void Remove(string path)
    {
        if (files.LookAtName(path) is not null)
        {
            files.Remove(path);
            Touched(path);
        }
    }

    /// <summary>Removes a folder, if it is there and empty.</summary>
    public void RemoveFolder(string folder)
    {
        if (files.RemoveFolder(folder))
        {
            Touched(folder);
        }
    }

    /// <summary>Renames to a name that is free.</summary>
    public void Rename(string from, string to)
    {
        files.RenameToFreeName(from, to);
        Touched(from);
        Touched(to);
    }
}

/// <summary>What all steps of a plan share while they are taken back or tidied up.</summary>
internal sealed class UnwindState
{
    /// <inheritdoc cref="UnwindContext.KeepsMade"/>
    public bool KeepsMade { get; set; }

    /// <summary>Folders in which a name changed.</summary>
    public HashSet<string> Touched { get; } = new(StringComparer.Ordinal);
}
