using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>The work of a <see cref="MoveFileStep"/>: one rename, done only while the file is what the plan saw.</summary>
internal sealed class MoveFileWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var move = (MoveFileStep)step;
        if (!vacated && Path.Exists(move.Destination))
        {
            yield return $"'{Path.GetFileName(move.Destination)}' is there already, in '{Path.GetDirectoryName(move.Destination)}'.";
        }
        var changed = FileTransfer.SourceRefusals(move.Source, move.Expected).ToList();
        foreach (var refusal in changed)
        {
            yield return refusal;
        }
        if (changed.Count == 0 && !FileStat.AreOnOneDrive(move.Source, FileCalls.ExistingParent(move.Destination)))
        {
            yield return $"'{Path.GetFileName(move.Source)}' would move to another drive, where a file can only be copied.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var move = (MoveFileStep)step;
        if (FileState.Of(move.Source) != move.Expected)
        {
            throw new IOException($"'{Path.GetFileName(move.Source)}' has changed since the plan was made.");
        }
        context.AboutToMove();
        FileCalls.RenameToFreeName(move.Source, move.Destination);
        FileCalls.FlushFolder(Path.GetDirectoryName(move.Destination)!);
        FileCalls.FlushFolder(Path.GetDirectoryName(move.Source)!);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary)
    {
        var move = (MoveFileStep)step;
        if (record.State != StepState.Started && !File.Exists(move.Source) && File.Exists(move.Destination)
            && FileState.Of(move.Destination) == move.Expected)
        {
            FileCalls.RenameToFreeName(move.Destination, move.Source);
        }
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary)
    {
    }
}
