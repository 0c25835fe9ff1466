using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Plans;

/// <summary>
/// One step of a plan, and all that is known of its kind: what it reads and changes, how it is checked, done, taken back and
/// undone, and how it is shown. A new kind is one new file with a <see cref="StepKindAttribute"/>. Paths are absolute.
/// </summary>
/// <param name="Destination">The file or folder that the step changes.</param>
/// <param name="Reason">Why, in a few words for the user.</param>
public abstract record PlanStep(string Destination, string Reason)
{
    /// <summary>What it does, as a verb for the user: "copy", "make folder".</summary>
    [JsonIgnore]
    public abstract string Verb { get; }

    /// <summary>True for a step that a plan which keeps part of its work can go without.</summary>
    [JsonIgnore]
    public virtual bool CanBeLeftOut => false;

    /// <summary>True for a step that has no inverse.</summary>
    [JsonIgnore]
    public virtual bool IsForGood => false;

    /// <summary>The file that the step reads or moves, where there is one.</summary>
    [JsonIgnore]
    public virtual string? SourcePath => null;

    /// <summary>Names that the step changes: each must lie in a place of the plan.</summary>
    [JsonIgnore]
    public virtual IEnumerable<string> Changes => [Destination];

    /// <summary>A name that is free after the step.</summary>
    [JsonIgnore]
    public virtual string? Vacates => null;

    /// <summary>A name at which a file stands after the step that did not stand there before; null for none.</summary>
    [JsonIgnore]
    public virtual string? Fills => null;

    /// <summary>A file that will be gone from its name, so that no document that stays may point at it; null for none.</summary>
    [JsonIgnore]
    public virtual string? Removes => null;

    /// <summary>True for a document that may go on pointing at what the step <see cref="Removes"/>.</summary>
    /// <param name="document">Absolute path of the document.</param>
    public virtual bool MayBeMissedBy(string document) => false;

    /// <summary>For a document that is written: what it holds then, as things are now; null for everything else.</summary>
    internal virtual byte[]? DocumentThen(IDurableFiles files) => null;

    /// <summary>Bytes that the step needs on the destination's drive.</summary>
    [JsonIgnore]
    public virtual long WritesBytes => 0;

    /// <summary>Bytes that it needs beside that, while it works.</summary>
    [JsonIgnore]
    public virtual long ScratchBytes => 0;

    /// <summary>Bytes of the file that the step is about.</summary>
    [JsonIgnore]
    public virtual long FileBytes => WritesBytes;

    /// <summary>Bytes that pass through the machine, for telling how far the work is: reading back counts too.</summary>
    [JsonIgnore]
    public virtual long WorkBytes => WritesBytes;

    /// <summary>Documents are undone first, folders last, so that a document never points at what is gone.</summary>
    [JsonIgnore]
    public virtual UndoOrder UndoneAs => UndoOrder.File;

    /// <summary>The same step about files that were moved: every path that it holds is taken through <paramref name="path"/>.</summary>
    public abstract PlanStep Moved(Func<string, string> path);

    /// <summary>The step that takes it back; null for a step that has none.</summary>
    /// <param name="record">What the journal holds of it.</param>
    public abstract PlanStep? Inverse(StepRecord record);

    /// <summary>Why the step cannot be done now.</summary>
    internal abstract IEnumerable<Fault> Refusals(StepCheck check);

    /// <summary>Does the step. Whatever happens in the middle, <see cref="TakeBack"/> must be able to restore what was.</summary>
    internal abstract void Do(StepContext context);

    /// <summary>Restores what was before the step, however far it came. May be called again after a crash in its middle.</summary>
    internal abstract void TakeBack(StepRecord record, UnwindContext context);

    /// <summary>After the whole plan is committed: removes what was kept for taking back. May be called again.</summary>
    internal virtual void TidyUp(UnwindContext context)
    {
    }

    /// <summary>Looks whether the step was taken back.</summary>
    /// <returns>What is not as it was before; null when all of it is.</returns>
    internal abstract Fault? Remains(StepRecord record, UnwindContext context);

    /// <summary>What the journal says that the step wrote.</summary>
    protected static Media.ByteIdentity WrittenBy(StepRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        return record.Written ?? throw new InvalidOperationException($"The journal does not tell what step {record.Index} wrote.");
    }
}

/// <summary>When a step is undone among the others of its plan.</summary>
public enum UndoOrder
{
    /// <summary>Before all else: folders that come back, for what comes back into them.</summary>
    NewFolder,

    /// <summary>First.</summary>
    Document,

    /// <summary>Then.</summary>
    File,

    /// <summary>Last.</summary>
    Folder,
}

/// <summary>The name of a kind of step in the journal. It is never used for something else.</summary>
[AttributeUsage(AttributeTargets.Class)]
public sealed class StepKindAttribute(string name) : Attribute
{
    /// <summary>The name.</summary>
    public string Name => name;
}
