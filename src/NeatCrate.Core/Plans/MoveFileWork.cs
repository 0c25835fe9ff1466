using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>The work of a <see cref="MoveFileStep"/>: one rename, done only while the file is what the plan saw.</summary>
internal sealed class MoveFileWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step)
    {
        var move = (MoveFileStep)step;
        if (Path.Exists(move.Destination))
        {
            yield return $"'{Path.GetFileName(move.Destination)}' is there already, in '{Path.GetDirectoryName(move.Destination)}'.";
        }
        if (!File.Exists(move.Source))
        {
            yield return $"'{Path.GetFileName(move.Source)}' is no longer there, in '{Path.GetDirectoryName(move.Source)}'.";
        }
        else if (new FileInfo(move.Source).Length != move.Expected.Bytes)
        {
            yield return $"'{Path.GetFileName(move.Source)}' has changed since the plan was made.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var move = (MoveFileStep)step;
        if (ByteIdentity.OfFile(move.Source, context.Worked, context.Cancel) != move.Expected)
        {
            throw new IOException($"'{Path.GetFileName(move.Source)}' has changed since the plan was made.");
        }
        context.Staged(move.Expected);
        FileCalls.RenameToFreeName(move.Source, move.Destination);
        FileCalls.FlushFolder(Path.GetDirectoryName(move.Destination)!);
        FileCalls.FlushFolder(Path.GetDirectoryName(move.Source)!);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary)
    {
        var move = (MoveFileStep)step;
        if (record.Written is { } moved && !File.Exists(move.Source) && FileTransfer.Holds(move.Destination, moved))
        {
            FileCalls.RenameToFreeName(move.Destination, move.Source);
        }
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary)
    {
    }
}
