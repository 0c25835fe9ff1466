using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>
/// The work of a <see cref="WriteDocumentStep"/>. A document that stands there is swapped with the new one in one
/// instant and kept under the temporary name until the whole plan is committed.
/// </summary>
internal sealed class WriteDocumentWork : IStepWork
{
    /// <inheritdoc/>
    public IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var write = (WriteDocumentStep)step;
        var name = Path.GetFileName(write.Destination);
        if (write.Expected is null)
        {
            if (Path.Exists(write.Destination))
            {
                yield return $"There is a document named '{name}' already.";
            }
        }
        else if (!File.Exists(write.Destination))
        {
            yield return $"The document '{name}' is no longer there.";
        }
        else if (ByteIdentity.OfFile(write.Destination) != write.Expected)
        {
            yield return $"The document '{name}' has changed since the plan was made.";
        }
    }

    /// <inheritdoc/>
    public void Do(PlanStep step, StepContext context)
    {
        var write = (WriteDocumentStep)step;
        var temporary = context.Temporary(write.Destination);
        var before = write.Expected is null ? null : File.ReadAllBytes(write.Destination);
        context.Staged(FileTransfer.WriteNew(temporary, write.Content), before);
        if (write.Expected is not { } expected)
        {
            FileCalls.RenameToFreeName(temporary, write.Destination);
        }
        else
        {
            Swap(temporary, write.Destination);
            // Another program may have saved in the last instant: what was swapped out tells.
            if (ByteIdentity.OfFile(temporary) != expected)
            {
                Swap(temporary, write.Destination);
                throw new IOException($"The document '{Path.GetFileName(write.Destination)}' was saved by another program at the same moment.");
            }
        }
        FileCalls.FlushFolder(Path.GetDirectoryName(write.Destination)!);
        context.Worked(write.Content.Length);
    }

    /// <inheritdoc/>
    public void TakeBack(PlanStep step, StepRecord record, string temporary)
    {
        var write = (WriteDocumentStep)step;
        if (record.Written is not { } written)
        {
            // Not staged: at most half a temporary file.
            FileTransfer.RemoveTemporary(temporary);
            return;
        }
        if (write.Expected is null)
        {
            NewFileWork.TakeBackNewFile(write.Destination, record, temporary);
            return;
        }
        if (!File.Exists(write.Destination) && File.Exists(Aside(temporary)))
        {
            FileCalls.RenameToFreeName(Aside(temporary), write.Destination);
        }
        if (!File.Exists(temporary))
        {
            return;
        }
        // While the temporary file holds the old bytes, the swap has happened.
        if (ByteIdentity.OfFile(temporary) == write.Expected && FileTransfer.Holds(write.Destination, written))
        {
            Swap(temporary, write.Destination);
        }
        if (FileTransfer.Holds(temporary, written))
        {
            FileTransfer.RemoveTemporary(temporary);
        }
    }

    /// <inheritdoc/>
    public void TidyUp(PlanStep step, string temporary)
    {
        if (((WriteDocumentStep)step).Expected is not null)
        {
            FileTransfer.RemoveTemporary(temporary);
        }
    }

    private static string Aside(string temporary) => temporary + ".old";

    private static void Swap(string temporary, string document)
    {
        if (!FileCalls.TrySwap(temporary, document))
        {
            // For file systems that cannot swap: three renames, each of which a restart can go on from.
            FileCalls.RenameToFreeName(document, Aside(temporary));
            FileCalls.RenameToFreeName(temporary, document);
            FileCalls.RenameToFreeName(Aside(temporary), temporary);
        }
    }
}
