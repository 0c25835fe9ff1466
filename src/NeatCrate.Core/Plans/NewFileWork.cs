using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>
/// What every step does that makes a new file: staged under a temporary name, then given its own name, if that is
/// still free. Taking back removes it only while it is what the step wrote.
/// </summary>
internal abstract class NewFileWork : IStepWork
{
    /// <inheritdoc/>
    public virtual IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        if (!vacated && Path.Exists(step.Destination))
        {
            yield return $"'{Path.GetFileName(step.Destination)}' is there already, in '{Path.GetDirectoryName(step.Destination)}'.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var temporary = context.Temporary(step.Destination);
        Stage(step, temporary, context);
        FileCalls.RenameToFreeName(temporary, step.Destination);
        FileCalls.FlushFolder(Path.GetDirectoryName(step.Destination)!);
    }

    /// <summary>Writes the file under its temporary name, flushed and compared, and says so to the journal.</summary>
    protected abstract void Stage(PlanStep step, string temporary, StepContext context);

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary) => TakeBackNewFile(step.Destination, record, temporary);

    /// <summary>Removes a new file that a step wrote, under whichever of its two names it stands.</summary>
    internal static void TakeBackNewFile(string destination, StepRecord record, string temporary)
    {
        // While the temporary file is there, what bears the name is somebody else's, unless both are one and the same file.
        if (File.Exists(temporary))
        {
            if (FileStat.Of(temporary) == FileStat.Of(destination))
            {
                File.Delete(destination);
            }
            FileTransfer.RemoveTemporary(temporary);
        }
        else if (record.Written is { } written && FileTransfer.Holds(destination, written))
        {
            File.Delete(destination);
        }
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary)
    {
    }
}

/// <summary>The work of a <see cref="CopyFileStep"/>.</summary>
internal sealed class CopyFileWork : NewFileWork
{
    /// <inheritdoc/>
    public override IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var copy = (CopyFileStep)step;
        return base.Refusals(step, vacated).Concat(FileTransfer.SourceRefusals(copy.Source, copy.Expected));
    }

    /// <inheritdoc/>
    protected override void Stage(PlanStep step, string temporary, StepContext context)
    {
        var copy = (CopyFileStep)step;
        context.Staged(FileTransfer.AssembleAndCompare(copy.Source, copy.Expected, [new FilePiece(null, 0, copy.Expected.Bytes)], temporary, context));
    }
}
