using System.Collections.Immutable;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Plans;

/// <summary>
/// What every step does that removes a file: it gets a temporary name, is compared under that, and goes when the whole plan
/// is committed. Until then it can come back.
/// </summary>
public abstract record RemoveStep(string Destination, string Reason, ByteIdentity Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string? Vacates => Destination;

    /// <inheritdoc/>
    public override long FileBytes => Expected.Bytes;

    /// <inheritdoc/>
    public override string? Removes => Destination;

    /// <inheritdoc/>
    public override long WorkBytes => Expected.Bytes;

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        if (check.Files.LookAtName(Destination) is not { } facts)
        {
            yield return new Fault(FaultCode.CopyGone) { Path = Destination };
        }
        else if (!facts.IsRegular || facts.Bytes != Expected.Bytes)
        {
            yield return new Fault(FaultCode.CopyChanged) { Path = Destination };
        }
    }

    internal override void Do(StepContext context)
    {
        RequireWhatStays(context);
        var temporary = context.Temporary(Destination);
        context.AboutToMove();
        context.Files.RenameToFreeName(Destination, temporary);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
        // Compared under the name that only we have: whatever took the file's own name until then is seen here, and comes back.
        if (context.Identify(temporary) != Expected)
        {
            throw new FaultException(FaultCode.CopyChanged, Destination);
        }
    }

    /// <summary>Refuses when something that must stay is not there.</summary>
    internal virtual void RequireWhatStays(StepContext context)
    {
    }

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        var temporary = context.Temporary(Destination);
        if (context.Files.LookAtName(temporary) is not { } held)
        {
            return;
        }
        if (context.Files.LookAtName(Destination) is not { } taken)
        {
            context.Rename(temporary, Destination);
        }
        else if (taken.Device == held.Device && taken.Inode == held.Inode)
        {
            context.Remove(temporary);
        }
        else
        {
            // Somebody took its name: it comes back in sight, under one beside it.
            var names = new FreeNames(context.Files.Names(Path.GetDirectoryName(Destination)!));
            context.Rename(temporary, Path.Combine(Path.GetDirectoryName(Destination)!, names.Claim(Path.GetFileName(Destination))));
        }
    }

    internal override void TidyUp(UnwindContext context) => context.Remove(context.Temporary(Destination));

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        context.Files.Holds(Destination, Expected) ? null
        : context.Files.LookAtName(Destination) is null ? new Fault(FaultCode.NotBackInPlace) { Path = Destination, Other = context.Temporary(Destination) }
        : record.State == StepState.Started ? null
        : new Fault(FaultCode.PutBackUnderOtherName) { Path = Destination };
}

/// <summary>Takes away what an earlier plan made. Only an undo holds this step.</summary>
/// <param name="Destination">The file to take away.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">What it must be, byte for byte.</param>
/// <param name="Original">A file that must still be there, so that nothing is lost; null for what can be made again.</param>
/// <param name="MadeFrom">What the original must be when it was only made use of; null when it must hold the same bytes.</param>
[StepKind("remove-copy")]
public sealed record RemoveCopyStep(string Destination, string Reason, ByteIdentity Expected, string? Original, FileState? MadeFrom = null)
    : RemoveStep(Destination, Reason, Expected)
{
    /// <summary>Absolute paths of documents that missed the file before it was made, and may miss it again.</summary>
    public ImmutableArray<string> MissedBy { get; init; } = [];

    /// <inheritdoc/>
    public override string Verb => "remove";

    /// <inheritdoc/>
    public override bool MayBeMissedBy(string document) => MissedBy.Contains(document);

    /// <inheritdoc/>
    public override long WorkBytes => Original is null || MadeFrom is not null ? Expected.Bytes : 2 * Expected.Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination), Original = Original is null ? null : path(Original), MissedBy = [.. MissedBy.Select(path)] };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => null;

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        foreach (var refusal in base.Refusals(check))
        {
            yield return refusal;
        }
        // What an earlier step brings back is looked at by that one.
        if (Original is null || check.Filled.Contains(Original))
        {
            yield break;
        }
        if (check.Files.Look(Original) is not { IsRegular: true } there)
        {
            yield return new Fault(FaultCode.OriginalGone) { Path = Destination, Other = Original };
        }
        else if (MadeFrom is { } state && new FileState(there.Bytes, there.ModifiedUtc) != state)
        {
            yield return new Fault(FaultCode.OriginalChanged) { Path = Destination, Other = Original };
        }
    }

    internal override void RequireWhatStays(StepContext context)
    {
        if (Original is not null && MadeFrom is null && context.Identify(Original) != Expected)
        {
            throw new FaultException(new Fault(FaultCode.OriginalChanged) { Path = Destination, Other = Original });
        }
    }
}

/// <summary>Deletes a file for good. It has no inverse, and a plan that holds one says so before anything else.</summary>
/// <param name="Destination">The file.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">What it must be, byte for byte.</param>
[StepKind("delete-file")]
public sealed record DeleteFileStep(string Destination, string Reason, ByteIdentity Expected) : RemoveStep(Destination, Reason, Expected)
{
    /// <inheritdoc/>
    public override string Verb => "delete for good";

    /// <inheritdoc/>
    public override bool IsForGood => true;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => null;
}

/// <summary>Takes away a file of our own beside people's files, such as a list of what is held when nothing is.</summary>
/// <param name="Destination">The file.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">What it must be, byte for byte.</param>
/// <param name="Content">Its bytes, from which it is made again.</param>
[StepKind("remove-own-file")]
public sealed record RemoveOwnFileStep(string Destination, string Reason, ByteIdentity Expected, byte[] Content) : RemoveStep(Destination, Reason, Expected)
{
    /// <inheritdoc/>
    public override string Verb => "remove";

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path) => this with { Destination = path(Destination) };

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => MakeFileStep.Write(Destination, "as it was", Content);
}
