namespace NeatCrate.Core.Plans;

/// <summary>The work of a <see cref="MakeFolderStep"/>.</summary>
internal sealed class MakeFolderWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        if (Path.Exists(step.Destination))
        {
            yield return $"'{step.Destination}' is there already.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        Directory.CreateDirectory(step.Destination);
        FileCalls.FlushFolder(Path.GetDirectoryName(step.Destination)!);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary) => RemoveFolderWork.RemoveIfEmpty(step.Destination);

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary)
    {
    }
}

/// <summary>The work of a <see cref="RemoveFolderStep"/>: done last of all, and only when nothing is left in the folder.</summary>
internal sealed class RemoveFolderWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated) => [];

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary)
    {
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary) => RemoveIfEmpty(step.Destination);

    internal static void RemoveIfEmpty(string folder)
    {
        if (Directory.Exists(folder) && !Directory.EnumerateFileSystemEntries(folder).Any())
        {
            Directory.Delete(folder);
        }
    }
}

/// <summary>
/// The work of a <see cref="RemoveCopyStep"/>. The file only gets a temporary name until the whole plan is committed.
/// </summary>
internal sealed class RemoveCopyWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var remove = (RemoveCopyStep)step;
        if (!File.Exists(remove.Destination))
        {
            yield return $"'{Path.GetFileName(remove.Destination)}' is no longer there.";
        }
        else if (new FileInfo(remove.Destination).Length != remove.Expected.Bytes)
        {
            yield return $"'{Path.GetFileName(remove.Destination)}' has changed since it was made.";
        }
        if (remove.Original is not null && !File.Exists(remove.Original))
        {
            yield return $"The original of '{Path.GetFileName(remove.Destination)}' is no longer at '{remove.Original}'; the copy may be the only one left.";
        }
        else if (remove is { Original: { } original, MadeFrom: { } state } && FileState.Of(original) != state)
        {
            yield return $"'{Path.GetFileName(original)}', from which '{Path.GetFileName(remove.Destination)}' was made, has changed since; nothing is taken away.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var remove = (RemoveCopyStep)step;
        Require(remove.Destination, remove.Expected, "has changed since it was made", context);
        if (remove is { Original: not null, MadeFrom: null })
        {
            Require(remove.Original, remove.Expected, "is no longer what was copied; the copy may be the only one left", context);
        }
        FileCalls.RenameToFreeName(remove.Destination, context.Temporary(remove.Destination));
        FileCalls.FlushFolder(Path.GetDirectoryName(remove.Destination)!);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary)
    {
        if (File.Exists(temporary))
        {
            FileCalls.RenameToFreeName(temporary, step.Destination);
        }
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary) => FileTransfer.RemoveTemporary(temporary);

    private static void Require(string path, Media.ByteIdentity expected, string otherwise, StepContext context)
    {
        if (Media.ByteIdentity.OfFile(path, context.Worked, context.Cancel) != expected)
        {
            throw new IOException($"'{Path.GetFileName(path)}' {otherwise}.");
        }
    }
}
