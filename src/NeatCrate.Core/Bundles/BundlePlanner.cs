using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.Core.Arrivals;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Printing;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Words;

namespace NeatCrate.Core.Bundles;

/// <summary>In which form a bundle is handed over.</summary>
public enum BundleForm
{
    /// <summary>One ZIP file.</summary>
    OneFile,

    /// <summary>A folder that is the bag.</summary>
    Folder,

    /// <summary>One ZIP file in numbered parts, in a folder with a list of their check sums.</summary>
    Parts,
}

/// <summary>What a bundle is to be.</summary>
/// <param name="SessionId">The session.</param>
/// <param name="Inventory">Its inventory.</param>
/// <param name="Shelves">All known shelves.</param>
/// <param name="SessionFolders">Folders of all known sessions, none of which may get the bundle.</param>
/// <param name="DestinationFolder">Absolute path of the folder that gets the bundle.</param>
/// <param name="Parts">What goes along besides what is played now.</param>
/// <param name="Recipient">Whom it is for.</param>
/// <param name="Note">What the sender wants to say.</param>
/// <param name="Now">Local time.</param>
public sealed record BundleRequest(
    Guid SessionId,
    SessionInventory Inventory,
    IReadOnlyList<Shelf> Shelves,
    IReadOnlyList<string> SessionFolders,
    string DestinationFolder,
    IReadOnlySet<BundlePart> Parts,
    string? Recipient,
    string? Note,
    DateTimeOffset Now)
{
    /// <summary>Absolute paths that other bundles, which are planned and not packed yet, are to have.</summary>
    public IReadOnlyCollection<string> Promised { get; init; } = [];

    /// <summary>What is known of the recipient; null where that is nothing.</summary>
    public Recipient? For { get; init; }

    /// <summary>How tracks are printed, where they go along printed.</summary>
    public PrintChoice Printing { get; init; } = new();

    /// <summary>How large sound gets that is packed without loss, where it is to be; null where it goes as it is.</summary>
    public PackedSizes? Packing { get; init; }

    /// <summary>What the bundle is.</summary>
    public BundleForm Form { get; init; }

    /// <summary>Bytes of a part, where it comes in parts.</summary>
    public long PartBytes { get; init; }

    /// <summary>Stops the planning.</summary>
    public CancellationToken Cancel { get; init; }

    /// <summary>Kinds of files outside that stay out: whoever opens it has them, or does without.</summary>
    public IReadOnlySet<CopyKind> LeftOutKinds { get; init; } = ImmutableHashSet<CopyKind>.Empty;
}

/// <summary>Plans a bundle: the whole session folder as the payload of a bag, and everything it points at with it.</summary>
public static class BundlePlanner
{
    /// <summary>Parts are no smaller.</summary>
    public const long LeastPartBytes = 100_000;

    /// <summary>Makes the plan. Nothing is changed; the session itself stays as it is even after it was applied.</summary>
    public static Plan Plan(BundleRequest request)
    {
        ArgumentNullException.ThrowIfNull(request);
        var refusals = Refusals(request).ToList();
        if (refusals.Count > 0)
        {
            return Make(request, "No bundle can be packed there.", [], [], refusals);
        }
        var sheet = new Loading(request).Load();
        var media = sheet.Slip.Files;
        var sentence = $"Pack {ByteText.Count(sheet.Contents.Entries.Length, "file")}, {ByteText.Of(sheet.Contents.Entries.Sum(e => e.Bytes))}, into {FormInWords(request)}"
            + (sheet.Slip.Printed is { } prints ? $"; {ByteText.Count(prints.Tracks.Count(t => t.File is not null), "track")} printed" : "")
            + (sheet.BroughtIn > 0 ? $"; {ByteText.Count(sheet.BroughtIn, "file")} from outside included" : "")
            + $"; {ByteText.Count(media.Count, "media file")} inside"
            + (sheet.Slip.NotInside.Count > 0 ? $", {sheet.Slip.NotInside.Count} unavailable" : ", nothing missing")
            + "; the session stays as it is.";
        var name = PortableName.Suggest(string.Create(CultureInfo.InvariantCulture, $"{sheet.Contents.BagName} {request.Now:yyyy-MM-dd_HHmmss}{request.Form switch { BundleForm.OneFile => ".zip", BundleForm.Parts => " in parts", _ => "" }}"));
        var names = FreeNames.In(request.DestinationFolder);
        foreach (var promised in request.Promised.Where(p => Path.GetDirectoryName(p) == request.DestinationFolder))
        {
            names.ClaimAsItIs(Path.GetFileName(promised));
        }
        var destination = Path.Combine(request.DestinationFolder, names.Claim(name));
        return Make(request, sentence, [Step(request, destination, sheet.Contents)], sheet.Remarks, refusals);
    }

    private static PlanStep Step(BundleRequest request, string destination, BundleContents contents)
    {
        const string Reason = "the bundle, with its packing slip";
        return request.Form == BundleForm.OneFile
            ? new PackBundleStep(destination, Reason, contents)
            : new PackBundleFolderStep(destination, Reason, contents, request.Form == BundleForm.Parts ? request.PartBytes : null);
    }

    private static string FormInWords(BundleRequest request) => request.Form switch
    {
        BundleForm.OneFile => "one bundle",
        BundleForm.Folder => "a bundle in a folder",
        _ => $"a bundle in parts of {ByteText.Of(request.PartBytes)}",
    };

    private static IEnumerable<Fault> Refusals(BundleRequest request)
    {
        if (request.Form == BundleForm.Parts && request.PartBytes < LeastPartBytes)
        {
            yield return new Fault(FaultCode.PartsTooSmall) { Bytes = LeastPartBytes };
        }
        if (!Directory.Exists(request.DestinationFolder))
        {
            yield return new Fault(FaultCode.NoSuchFolder) { Path = request.DestinationFolder };
            yield break;
        }
        var destination = RealPath.Of(request.DestinationFolder);
        if (request.SessionFolders.Prepend(request.Inventory.Folder).FirstOrDefault(f => ShelfPath.IsWithin(destination, RealPath.Of(f))) is { } session)
        {
            yield return new Fault(FaultCode.BundleInsideSession) { Path = session, Other = session == request.Inventory.Folder ? session : null };
        }
    }

    private static Plan Make(BundleRequest request, string sentence, ImmutableArray<PlanStep> steps, IEnumerable<Fault> remarks, List<Fault> refusals) => new()
    {
        Id = Guid.NewGuid(),
        Kind = PlanKind.Bundle,
        SessionId = request.SessionId,
        Sentence = sentence,
        WritableRoots = [request.DestinationFolder],
        Steps = steps,
        Remarks = [.. remarks],
        Refusals = [.. refusals],
    };

    private sealed record Loaded(BundleContents Contents, PackingSlip Slip, int BroughtIn, IReadOnlyList<Fault> Remarks);

    /// <summary>Puts the contents of the session on a packing slip and into a bag.</summary>
    private sealed class Loading(BundleRequest request)
    {
        private readonly SessionInventory _inventory = request.Inventory;
        private readonly SessionContents _contents = ContentsReader.Read(request.Inventory, request.Shelves, BundleParts.Choice(
            request.Parts, request.LeftOutKinds, request.Shelves, LosslessPacking.Of(request.Inventory, request.Packing, BundleParts.Documents(request.Parts), request.Cancel)));

        // The document is only read once more where something of it is asked: what is printed, or what a recipient lacks.
        private readonly SessionPrint? _tracks = request.Parts.Contains(BundlePart.PrintedTracks) || request.For is not null
            ? TrackPrinter.Of(request.Inventory, request.Shelves, request.Printing, request.Now)
            : null;

        private SessionPrint? Print => request.Parts.Contains(BundlePart.PrintedTracks) ? _tracks : null;

        /// <summary>One's own way back stays home unless somebody wants it. Everything is packed so that any system takes its names, and so that documents find it beside them.</summary>
        public Loaded Load()
        {
            var prints = PrintedFolder.Of(Print, _contents.Folder, request.Printing);
            // The session comes first: whoever unpacks by the manifest finds it there.
            var entries = _contents.Entries.Select(e => new BundleEntry($"{_contents.Folder}/{e.Path}", e.Origin, e.Bytes, e.Marks)).Concat(prints).ToImmutableArray();
            var slip = Slip(prints);
            var contents = new BundleContents(
                _contents.Folder, entries, [.. _contents.EmptyFolders.Select(f => $"{_contents.Folder}/{f}")], [.. Info(slip)], slip.ToText(), slip.ToJson(), request.Now)
            {
                SlipHtml = slip.ToHtml(),
            };
            return new Loaded(contents, slip, _contents.Entries.Count(e => e.Outside is not null), [.. Remarks(contents, slip)]);
        }

        private List<SlipMove> Moves() =>
        [
            .. _contents.Entries.Where(e => e.Outside is null && e.Here is not null).Select(e => (From: Path.GetRelativePath(_inventory.Folder, e.Here!), Path: Unpacked(e))).Where(m => m.From != m.Path)
                .Select(m => new SlipMove(m.From, m.Path, "the name is not accepted everywhere")),
            .. _contents.Entries.Where(e => e.Outside is not null).Select(e => new SlipMove(Shown(e.Outside!), Unpacked(e), "stood outside the session folder")),
        ];

        /// <summary>The path of an entry as it is once what is packed was brought back.</summary>
        private static string Unpacked(ContentEntry entry) => entry.Origin is PackedSound packed ? Path.ChangeExtension(entry.Path, packed.Extension) : entry.Path;

        private string Shown(string path) => _inventory.Files.FirstOrDefault(f => f.Path == path) is { ShelfName: { } shelf } file ? $"{shelf}: {file.ShownPath}" : path;

        private IEnumerable<string> LeftOut()
        {
            int Count(ContentRole role) => _contents.LeftOut.Count(l => l.Role == role && l.Why == WhyLeftOut.ByChoice && !ContentRoles.IsUnfinished(Path.GetFileName(l.Path)));
            int Files(BundlePart part) => request.Parts.Contains(part) ? 0 : _inventory.Files.Count(f => f.Standing is Standing.Inside or Standing.Outside && BundleParts.Of(f, request.Shelves) == part);
            if (Files(BundlePart.Bounces) is > 0 and var bounces)
            {
                yield return $"{ByteText.Count(bounces, "bounce")} in '{_inventory.Layout.Bounces}'";
            }
            if (Files(BundlePart.Unplaced) is > 0 and var unplaced)
            {
                yield return $"{ByteText.Count(unplaced, "file")} that nothing places";
            }
            if (Files(BundlePart.Renders) is > 0 and var renders)
            {
                yield return $"{ByteText.Count(renders, "render")} that nothing places";
            }
            if (Files(BundlePart.Video) is > 0 and var videos)
            {
                yield return $"{ByteText.Count(videos, "video")}";
            }
            if (Files(BundlePart.StockContent) is > 0 and var stock)
            {
                yield return $"{ByteText.Count(stock, "file")} of content that comes with programs";
            }
            if (!request.Parts.Contains(BundlePart.OlderVersions) && (Count(ContentRole.Document), Files(BundlePart.OlderVersions)) is var (documents, needed) && documents + needed > 0)
            {
                yield return $"{ByteText.Count(documents, "older version")} of the document, and {ByteText.Count(needed, "file")} that only {(documents == 1 ? "it needs" : "they need")}";
            }
            if (Count(ContentRole.Other) is > 0 and var others)
            {
                yield return $"{ByteText.Count(others, "other file")}";
            }
            // The list of what is set aside is our own, and no file that anybody set aside.
            if (_contents.LeftOut.Count(l => l.Role == ContentRole.SetAside && l.Here != HoldingPlace.ListIn(_inventory.Folder)) is > 0 and var held)
            {
                yield return $"{ByteText.Count(held, "file")} that {(held == 1 ? "is" : "are")} set aside";
            }
            if (Count(ContentRole.Litter) is > 0 and var litter)
            {
                yield return $"{ByteText.Count(litter, "file")} that systems leave behind, as .DS_Store and Thumbs.db";
            }
            if (_inventory.Files.Count(IsLeftOutByKind) is > 0 and var kinds)
            {
                yield return $"{ByteText.Count(kinds, "file")} that {(kinds == 1 ? "stands" : "stand")} outside, by {(kinds == 1 ? "its kind" : "their kinds")}";
            }
            if (Count(ContentRole.KeptSave) > 0)
            {
                yield return $"kept saves of the document, in '{SessionLayout.DocumentBackups}'";
            }
        }

        private PackingSlip Slip(IReadOnlyList<BundleEntry> prints)
        {
            var places = _contents.Entries.Where(e => e.Here is not null).ToDictionary(e => e.Here!, e => e.Path, StringComparer.Ordinal);
            var media = _inventory.Files.Where(f => places.ContainsKey(f.Path)).ToList();
            return new PackingSlip
            {
                Session = Path.GetFileName(_inventory.Folder),
                SessionId = _inventory.Document?.SessionId,
                PackedAt = request.Now,
                Recipient = request.Recipient,
                Note = request.Note,
                Document = _contents.Document is { } document ? $"data/{_contents.Folder}/{document}" : null,
                SampleRate = _inventory.Document?.Settings?.SampleRate,
                BitDepth = _inventory.Document?.Settings?.BitDepth,
                Files = [.. media.Select(f => new SlipFile(
                    places[f.Path], f.Bytes, f.Header?.SampleRate, f.Header?.BitsPerSample, f.Header?.Channels, f.Header?.LengthSamples, PackingSlip.UseText(f)))],
                OtherFiles = _contents.Entries.Length - media.Count,
                Packed = _contents.Entries.Where(e => e.Origin is PackedSound).ToList() is { Count: > 0 } packed
                    ? new SlipPacked(packed.Count, packed.Sum(e => ((PackedSound)e.Origin).From.Expected.Bytes))
                    : null,
                Printed = Print is null ? null : new SlipPrints(
                    Print.SampleRate, Print.LengthSamples, request.Printing.Law, [.. Print.Tracks.Select(t => new SlipPrint(t.Name, t.FileName, t.Print?.Format.BitsPerSample, t.Print?.Format.Channels, [.. t.Notes.Select(n => n.Sentence)]))], prints.Sum(p => p.Bytes)),
                Moves = Moves(),
                NotInside = [.. _inventory.Files.Where(f => f.Standing is Standing.Missing or Standing.Away ? f.Use != FileUse.OlderOnly : f.Use is FileUse.Placed or FileUse.Named && Stays(f)).Select(NotToBeHad)],
                LeftOut = [.. LeftOut()],
            };
        }

        /// <summary>True for one that is there, and stays by choice.</summary>
        private bool Stays(InventoryFile file) => IsLeftOutByKind(file) || (file.Standing is Standing.Inside or Standing.Outside && BundleParts.Of(file, request.Shelves) is { } part && !request.Parts.Contains(part));

        private bool IsLeftOutByKind(InventoryFile file) => file.Standing == Standing.Outside && request.LeftOutKinds.Contains(CopyKinds.Of(file));

        private string NotToBeHad(InventoryFile file) => $"{file.Name} ({PackingSlip.UseText(file)}; {file.Standing switch
        {
            Standing.Away => $"on '{file.ShelfName}', which is not connected",
            Standing.Outside => $"on '{file.ShelfName ?? Path.GetDirectoryName(file.Path)}', left out {(IsLeftOutByKind(file) ? "by its kind" : "by choice")}",
            Standing.Inside => "left out by choice",
            _ => "missing",
        }})";

        private IEnumerable<Fault> Remarks(BundleContents bundle, PackingSlip slip)
        {
            foreach (var apart in LeftOutRemarks.Of(_contents))
            {
                yield return apart;
            }
            if (slip.NotInside.Count > 0)
            {
                yield return new Fault(FaultCode.SilentInBundle) { Names = [.. slip.NotInside] };
            }
            if (slip.Moves.Count > 0 && !_inventory.IsByNames)
            {
                yield return new Fault(FaultCode.MovedInBundle) { Count = slip.Moves.Count };
            }
            var longest = bundle.Entries.Select(e => $"{_contents.Folder}/data/{e.PayloadPath}".Length).DefaultIfEmpty().Max();
            if (longest > PortableName.MaxPathCharacters && request.For?.MayNeedShortPaths != false)
            {
                yield return new Fault(FaultCode.BundlePathTooLong) { Count = longest, Expected = PortableName.MaxPathCharacters };
            }
            foreach (var remark in OfRecipient(bundle))
            {
                yield return remark;
            }
            if (request.Parts.Contains(BundlePart.PrintedTracks) && Print is not { Tracks.Length: > 0 })
            {
                yield return new Fault(FaultCode.NothingToPrint);
            }
            if (Print?.Tracks.Where(t => t.IsRefused).ToList() is { Count: > 0 } refused)
            {
                yield return new Fault(FaultCode.TracksNotPrinted) { Names = [.. refused.Select(t => $"{t.Name} ({string.Join("; ", t.Notes.Where(n => n.Prevents).Select(n => n.Sentence))})")] };
            }
            if (Print?.Printed.Where(t => t.Notes.Length > 0).ToList() is { Count: > 0 } otherwise)
            {
                yield return new Fault(FaultCode.TracksPrintedOtherwise) { Names = [.. otherwise.Select(t => $"{t.Name} ({string.Join("; ", t.Notes.Select(n => n.Sentence))})")] };
            }
            if (request.Packing is not null && LosslessPacking.Hinders(_inventory, BundleParts.Documents(request.Parts)) is { } hinders)
            {
                yield return hinders;
            }
            if (slip.Packed is not null && request.Parts.Contains(BundlePart.KeptSaves))
            {
                yield return new Fault(FaultCode.KeptSavesPointAtUnpacked);
            }
            if (_inventory.Document is null && !_inventory.IsByNames)
            {
                yield return new Fault(FaultCode.BundleUseUnknown);
            }
            foreach (var remark in ArrivalRemarks.StayNamed(_inventory.Standing(Standing.Outside).Where(f => !Stays(f)), _inventory))
            {
                yield return remark;
            }
        }

        /// <summary>What does not fit to whom it is for.</summary>
        private IEnumerable<Fault> OfRecipient(BundleContents bundle)
        {
            if (request.For is not { } recipient)
            {
                yield break;
            }
            if (recipient.LimitBytes is { } limit && LargestFile(bundle) is var largest && largest > limit)
            {
                yield return new Fault(FaultCode.BundleTooLargeToSend) { Name = recipient.Name, Bytes = largest, Free = limit };
            }
            if (!recipient.ReadsDocument && Print is null && _tracks is not null)
            {
                yield return new Fault(FaultCode.RecipientCannotRead) { Name = recipient.Name };
            }
            var effects = (_tracks?.Tracks ?? []).SelectMany(t => t.Notes).Where(n => n is { Kind: PrintNoteKind.Effect, Name: not null }).Select(n => n.Name!)
                .Distinct(StringComparer.OrdinalIgnoreCase).Where(e => !recipient.HasNamed(e)).Order(StringComparer.OrdinalIgnoreCase).ToList();
            if (effects.Count > 0 && recipient.ReadsDocument && recipient.Work is RecipientWork.Mix or RecipientWork.Edit)
            {
                yield return new Fault(FaultCode.RecipientLacks) { Name = recipient.Name, Names = [.. effects] };
            }
        }

        /// <summary>Bytes of the largest file that is handed over.</summary>
        private long LargestFile(BundleContents bundle) => request.Form switch
        {
            BundleForm.OneFile => bundle.Bytes,
            BundleForm.Parts => Math.Min(bundle.Bytes, request.PartBytes),
            _ => bundle.Entries.Select(e => e.Bytes).DefaultIfEmpty().Max(),
        };

        private IEnumerable<KeyValuePair<string, string>> Info(PackingSlip slip)
        {
            yield return new("Bagging-Date", request.Now.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
            yield return new("External-Description", $"Recording session {slip.Session}");
            if (slip.SessionId is { } id)
            {
                yield return new("External-Identifier", id.ToString());
            }
            if (!string.IsNullOrWhiteSpace(request.Recipient))
            {
                yield return new("Internal-Sender-Description", $"For {request.Recipient}");
            }
            yield return new("Bag-Software-Agent", "Neat Crate " + typeof(BundlePlanner).Assembly.GetName().Version?.ToString(3));
        }
    }
}
