using System.Text;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// Packs a bundle into a folder: the bag as it is, or one ZIP file in numbered parts with a list of their check sums. The folder is filled under a
/// temporary name and gets its own once all in it was read back and compared, so that there is never half a bundle under a bundle's name.
/// </summary>
/// <param name="Destination">The folder.</param>
/// <param name="Reason">Why.</param>
/// <param name="Contents">What goes in.</param>
/// <param name="PartBytes">Bytes of a part; null for a bag that is a folder.</param>
[StepKind("pack-bundle-folder")]
public sealed record PackBundleFolderStep(string Destination, string Reason, BundleContents Contents, long? PartBytes) : PlanStep(Destination, Reason), IPackingStep
{
    /// <summary>Most parts that are numbered.</summary>
    public const int MostParts = 999;

    /// <summary>Name of the list of check sums of the parts.</summary>
    public const string ListName = "Check sums.sha512";

    private const string ScratchName = ".neat-crate-scratch-";
    private const string HowToJoin = "How to join.txt";

    /// <inheritdoc/>
    public override string Verb => "pack";

    /// <inheritdoc/>
    public override string? Fills => Destination;

    /// <inheritdoc/>
    public override long WritesBytes => Contents.Bytes;

    /// <inheritdoc/>
    public override long ScratchBytes => Contents.ScratchBytes;

    /// <inheritdoc/>
    public override long WorkBytes => 2 * Contents.Bytes;

    /// <summary>Name of the file that the parts make.</summary>
    private string WholeName => Contents.BagName + ".zip";

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Destination = path(Destination), Contents = Contents.Moved(path) };
    }

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => new RemoveBundleFolderStep(Destination, "made by the plan; it can be packed again", WrittenBy(record));

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        foreach (var refusal in check.NameTaken(Destination).Concat(Contents.Entries.SelectMany(e => e.Origin.Refusals(check.Reading))))
        {
            yield return refusal;
        }
        if (PartBytes is { } bytes && Contents.Bytes / bytes >= MostParts)
        {
            yield return new Fault(FaultCode.TooManyParts) { Bytes = bytes, Expected = MostParts };
        }
    }

    internal override void Do(StepContext context)
    {
        var temporary = context.Temporary(Destination);
        context.Files.MakeFolder(temporary);
        var bag = new BagWriter(Contents, context.Reading, use => Path.Combine(temporary, ScratchName + use));
        ByteIdentity written;
        if (PartBytes is { } partBytes)
        {
            written = WriteParts(bag, temporary, partBytes, context);
        }
        else
        {
            var folder = new FolderBag(context, temporary);
            bag.Write(folder);
            written = folder.Identity;
        }
        context.Staged(written);
        context.Files.RenameToFreeName(temporary, Destination);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
    }

    private ByteIdentity WriteParts(BagWriter bag, string folder, long partBytes, StepContext context)
    {
        var whole = Path.Combine(folder, WholeName);
        List<(string Path, ByteIdentity Written)> parts;
        using (var stream = new PartsStream(context, whole, partBytes))
        {
            var zip = new ZipBag(stream, Contents.BagName);
            bag.Write(zip);
            parts = stream.Finish();
            using var joined = new JoinedStream([.. parts.Select(p => new SourceStream(context.Files.OpenSource(p.Path), p.Path, p.Written.Bytes, ownsFile: true))]);
            zip.Compare(joined, whole, context.Cancel);
        }
        var lines = parts.Select(p => (Path.GetFileName(p.Path), Sha512Of(p.Path, p.Written, context)));
        parts.Add(WriteText(Path.Combine(folder, ListName), BagTags.Manifest(lines), context));
        parts.Add(WriteText(Path.Combine(folder, HowToJoin), Encoding.UTF8.GetBytes(JoinInWords(parts.Count - 1)), context));
        context.Files.FlushFolder(folder);
        return FolderIdentity.Of(parts.Select(p => (Path.GetFileName(p.Path), p.Written)), []);
    }

    /// <summary>The check sum of what was compared with what went in, and of nothing that took its place since.</summary>
    private static ContentHash Sha512Of(string path, ByteIdentity written, StepContext context)
    {
        using var sink = new HashingSink();
        using var file = context.Files.OpenSource(path);
        sink.Copy(file, path, 0, written.Bytes, context.Cancel);
        return sink.Hash == written.Hash ? sink.TakeSha512() : throw new FaultException(FaultCode.ReadBackDiffers, path);
    }

    private static (string Path, ByteIdentity Written) WriteText(string path, byte[] text, StepContext context)
    {
        using var file = new StagedFile(context, path, text.Length);
        file.Write(text);
        return (path, file.Finish(default));
    }

    private string JoinInWords(int parts) => string.Join('\n',
    [
        $"One file, {WholeName}, in {parts} part{(parts == 1 ? "" : "s")}. Put all of them into one folder.",
        "",
        "To check what arrived (one that is missing or damaged is named, and can be sent again by itself):",
        $"  sha512sum -c '{ListName}'",
        "To join them on macOS and Linux:",
        $"  cat {OriginalSounds.Quoted(WholeName)}.[0-9]* > {OriginalSounds.Quoted(WholeName)}",
        "To join them on Windows, at the command prompt:",
        $"  copy /b \"{WholeName}.*\" \"{Contents.BagName} whole.zip\"",
        "Many programs that unpack open the first part and find the others by themselves.",
        "",
    ]);

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        var temporary = context.Temporary(Destination);
        if (context.Files.LookAtName(temporary) is null && record.Written is { } written && FolderIdentity.Read(context.Files, Destination) == written)
        {
            context.Rename(Destination, temporary);
        }
        context.RemoveTree(temporary);
    }

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        context.Files.LookAtName(context.Temporary(Destination)) is not null ? new Fault(FaultCode.StillThere) { Path = context.Temporary(Destination) }
        : record.Written is { } written && FolderIdentity.Read(context.Files, Destination) == written ? new Fault(FaultCode.StillThere) { Path = Destination }
        : null;
}

/// <summary>Takes away a bundle that is a folder, if it is still what was packed, to the last file. Only an undo holds this step.</summary>
/// <param name="Destination">The folder.</param>
/// <param name="Reason">Why.</param>
/// <param name="Expected">What it must hold: the bytes of all its files, and the hash over all that is in it.</param>
[StepKind("remove-bundle-folder")]
public sealed record RemoveBundleFolderStep(string Destination, string Reason, ByteIdentity Expected) : PlanStep(Destination, Reason)
{
    /// <inheritdoc/>
    public override string Verb => "remove";

    /// <inheritdoc/>
    public override string? Vacates => Destination;

    /// <inheritdoc/>
    public override long FileBytes => Expected.Bytes;

    /// <inheritdoc/>
    public override long WorkBytes => Expected.Bytes;

    /// <inheritdoc/>
    public override PlanStep Moved(Func<string, string> path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return this with { Destination = path(Destination) };
    }

    /// <inheritdoc/>
    public override PlanStep? Inverse(StepRecord record) => null;

    internal override IEnumerable<Fault> Refusals(StepCheck check)
    {
        if (check.Files.LookAtName(Destination) is not { } facts)
        {
            yield return new Fault(FaultCode.CopyGone) { Path = Destination };
        }
        else if (facts.Kind != EntryKind.Folder)
        {
            yield return new Fault(FaultCode.CopyChanged) { Path = Destination };
        }
    }

    internal override void Do(StepContext context)
    {
        var temporary = context.Temporary(Destination);
        context.AboutToMove();
        context.Files.RenameToFreeName(Destination, temporary);
        context.Files.FlushFolder(Path.GetDirectoryName(Destination)!);
        // Looked at under the name that only we have, so that nothing comes into it by its own name any more.
        if (FolderIdentity.Read(context.Files, temporary, context.Worked, context.Cancel) != Expected)
        {
            throw new FaultException(FaultCode.CopyChanged, Destination);
        }
    }

    internal override void TakeBack(StepRecord record, UnwindContext context)
    {
        var temporary = context.Temporary(Destination);
        if (context.Files.LookAtName(temporary) is null)
        {
            return;
        }
        var name = Destination;
        if (context.Files.LookAtName(Destination) is not null)
        {
            // Somebody took its name: it comes back in sight, under one beside it.
            name = Path.Combine(Path.GetDirectoryName(Destination)!, new FreeNames(context.Files.Names(Path.GetDirectoryName(Destination)!)).Claim(Path.GetFileName(Destination)));
        }
        context.Rename(temporary, name);
    }

    internal override void TidyUp(UnwindContext context) => context.RemoveTree(context.Temporary(Destination));

    internal override Fault? Remains(StepRecord record, UnwindContext context) =>
        context.Files.LookAtName(context.Temporary(Destination)) is not null ? new Fault(FaultCode.NotBackInPlace) { Path = Destination, Other = context.Temporary(Destination) }
        : context.Files.LookAtName(Destination) is { Kind: EntryKind.Folder } || record.State == StepState.Started ? null
        : new Fault(FaultCode.PutBackUnderOtherName) { Path = Destination };
}
