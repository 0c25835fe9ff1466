using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Plans;

/// <summary>
/// What every step does that writes a document in place of the one that stands there: the two are swapped in one instant,
/// and the old one is kept under the temporary name until the whole plan is committed.
/// </summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">Identity of the document as the plan saw it.</param>
public abstract record DocumentStep(string Destination, string Reason, ByteIdentity Expected) : PlanStep(Destination, Reason)
{
    // Whoever saves more often than this while two files are swapped is a machine gone wrong.
    private const int MostSwaps = 20;

    /// <inheritdoc/>
    public override string Verb => "re-write";

    /// <inheritdoc/>
    public override UndoOrder UndoneAs => UndoOrder.Document;

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        return new ReplaceDocumentStep(Destination, "as it was before", record.Before ?? throw new InvalidOperationException("The journal does not hold the old document."), WrittenBy(record), record.BeforeModifiedUtc) { ModifiedRest = record.BeforeModifiedRest ?? 0 };
    }

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        switch (check.Files.LookAtName(Destination))
        {
            case null:
                yield return new Fault(FaultCode.DocumentGone) { Path = Destination };
                break;
            case { Kind: EntryKind.Link }:
                // Swapping would leave a plain file in the link's place, and what it leads to as it was.
                yield return new Fault(FaultCode.DocumentIsALink) { Path = Destination, Other = check.Files.Real(Destination) };
                break;
            case { IsRegular: false }:
                yield return new Fault(FaultCode.NotARegularFile) { Path = Destination };
                break;
            case { } facts when facts.Bytes != Expected.Bytes || check.Files.Identify(Destination) != Expected:
                yield return new Fault(FaultCode.DocumentChanged) { Path = Destination };
                break;
        }
    }

    /// <summary>Replaces the document.</summary>
    /// <param name="content">What it holds then.</param>
    /// <param name="modified">Its time of the last change, with what it has beyond a step of 100 ns; null for now.</param>
    /// <param name="context">The step.</param>
    internal void Replace(byte[] content, (DateTime Utc, int Beyond)? modified, StepContext context)
    {
        var temporary = context.Temporary(Destination);
        var facts = context.Files.LookAtName(Destination) ?? throw new FaultException(FaultCode.DocumentGone, Destination);
        var before = context.Files.ReadAll(Destination);
        ByteIdentity written;
        using (var file = new StagedFile(context, temporary, content.Length))
        {
            file.Write(content);
            // Who may read the document, and who may write it, stays as it was.
            written = file.Finish(new KeptMarks(modified?.Utc, modified?.Beyond ?? 0, facts.Mode));
        }
        context.Staged(written, before, facts);
        Swap(context.Files, temporary, Destination);
        if (context.Files.Identify(temporary) != Expected)
        {
            // Another program saved in the last instant: what was swapped out tells. Its save goes back into its place.
            GiveBack(context.Files, temporary, written);
            throw new FaultException(FaultCode.DocumentSavedMeanwhile, Destination);
        }
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    /// <summary>
    /// Gives a save that was swapped out its name back. The other program may save again at any moment: whatever comes out of
    /// a swap and was not put there by the one before is newer, and goes in again. In the end the newest save bears the name.
    /// </summary>
    private void GiveBack(IDurableFiles files, string temporary, ByteIdentity written)
    {
        var placed = written;
        for (var n = 0; n < MostSwaps && files.Holds(Destination, placed); n++)
        {
            var given = files.Identify(temporary);
            Swap(files, temporary, Destination);
            if (files.Holds(temporary, placed))
            {
                break;
            }
            placed = given;
        }
        // What is under the temporary name now is ours, or was saved over by the program that saved it.
        files.Remove(temporary);
    }

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        var (files, temporary) = (context.Files, context.Temporary(Destination));
        if (record.Written is not { } written)
        {
            // Not staged: at most half a temporary file.
            context.Remove(temporary);
            return;
        }
        Straighten(context, temporary);
        if (files.LookAtName(temporary) is null)
        {
            NoticeOtherSave(context);
            return;
        }
        if (files.Holds(temporary, written))
        {
            // The swap has not happened, or was undone already.
            context.Remove(temporary);
        }
        else if (files.Holds(Destination, written) && files.Holds(temporary, Expected))
        {
            Swap(files, temporary, Destination);
            context.Touched(Destination);
            if (files.Holds(temporary, written))
            {
                context.Remove(temporary);
            }
        }
        else if (files.Holds(temporary, Expected))
        {
            // Another program saved over what we wrote: its save stays. The old bytes are in the journal.
            context.Remove(temporary);
        }
        else
        {
            // A save of another program, caught in the middle of being given back: it comes in sight, beside the one that bears the name.
            var names = new FreeNames(files.Names(Path.GetDirectoryName(Destination)!));
            context.Rename(temporary, Path.Combine(Path.GetDirectoryName(Destination)!, names.Claim(Path.GetFileName(Destination))));
        }
        NoticeOtherSave(context);
    }

    private void NoticeOtherSave(UnwindContext context)
    {
        if (context.Files.LookAtName(Destination) is not null && !context.Files.Holds(Destination, Expected))
        {
            context.DocumentStays();
        }
    }

    internal override void TidyUp(UnwindContext context)
    {
        var temporary = context.Temporary(Destination);
        context.Remove(Aside(temporary));
        context.Remove(temporary);
    }

    internal override Fault? Remains(StepRecord record, UnwindContext context) => context.Files.Holds(Destination, Expected) ? null
        : record.Written is { } written && context.Files.Holds(Destination, written) ? new Fault(FaultCode.NotBackInPlace) { Path = Destination }
        : new Fault(FaultCode.DocumentSavedMeanwhile) { Path = Destination };

    /// <summary>Where a swap by three renames was cut off, its names are put in order first.</summary>
    private void Straighten(UnwindContext context, string temporary)
    {
        var (files, aside) = (context.Files, Aside(temporary));
        if (files.LookAtName(aside) is null)
        {
            return;
        }
        if (files.LookAtName(Destination) is null)
        {
            // Cut after the first rename: the old document goes back.
            context.Rename(aside, Destination);
        }
        else if (files.LookAtName(temporary) is null)
        {
            // Cut after the second: the third is made good.
            context.Rename(aside, temporary);
        }
        else
        {
            // Somebody saved between the first and the second: that save stays, and the old bytes are in the journal.
            context.Remove(aside);
        }
    }

    private static string Aside(string temporary) => temporary + ".old";

    private static void Swap(IDurableFiles files, string temporary, string document)
    {
        if (!files.TrySwap(temporary, document))
        {
            // For file systems that cannot swap: three renames, each of which a restart can go on from.
            files.RenameToFreeName(document, Aside(temporary));
            files.RenameToFreeName(temporary, document);
            files.RenameToFreeName(Aside(temporary), temporary);
        }
    }
}

/// <summary>Writes a document in place of the one that stands there.</summary>
/// <param name="Destination">The document.</param>
/// <param name="Reason">Why.</param>
/// <param name="Content">Its new bytes.</param>
/// <param name="Expected">Identity of the document as the plan saw it.</param>
/// <param name="ModifiedUtc">The time of the last change that it gets, as an undo gives it back; null for now.</param>
[StepKind("write-document")]
public sealed record ReplaceDocumentStep(string Destination, string Reason, byte[] Content, ByteIdentity Expected, DateTime? ModifiedUtc = null)
    : DocumentStep(Destination, Reason, Expected)
{
    /// <summary>What that time has beyond a step of 100 ns, in nanoseconds.</summary>
    public int ModifiedRest { get; init; }

    internal override byte[]? DocumentThen(IDurableFiles files) => Content;

    /// <inheritdoc/>
    public override long WritesBytes => Content.Length;

    /// <inheritdoc/>
    public override long WorkBytes => 2L * Content.Length;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    internal override void Do(StepContext context) => Replace(Content, ModifiedUtc is { } utc ? (utc, ModifiedRest) : null, context);
}
