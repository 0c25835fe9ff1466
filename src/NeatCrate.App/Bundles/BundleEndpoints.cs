using System.Collections.Immutable;
using System.ComponentModel.DataAnnotations;
using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Printing;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Bundles;

/// <summary>What a bundle is to be.</summary>
/// <param name="Parts">What goes along besides what is played now; null for what goes where nobody chose.</param>
/// <param name="Law">How crossfades of printed tracks go.</param>
/// <param name="ConvertsRates">Whether printed tracks convert files of other rates.</param>
/// <param name="PacksSound">Whether sound is packed without loss.</param>
/// <param name="Form">In which form it is handed over.</param>
/// <param name="PartBytes">Bytes of a part, where it comes in parts.</param>
public sealed record BundleChoice(
    Guid ShelfId,
    [Required(AllowEmptyStrings = true)] string Path,
    BundlePart[]? Parts,
    CrossfadeLaw? Law,
    bool? ConvertsRates,
    bool? PacksSound,
    BundleForm? Form,
    long? PartBytes,
    [StringLength(200)] string? Recipient,
    [StringLength(4000)] string? Note);

/// <summary>A bundle that was packed.</summary>
/// <param name="Files">Names of what can be downloaded of it: itself, or its parts with the list of their check sums. None of a folder.</param>
public sealed record BundleView(Guid PlanId, string Name, PlaceView Place, long Bytes, DateTimeOffset Packed, bool There, IReadOnlyList<string> Files);

/// <summary>Somebody who gets bundles, and what is sensible to send them.</summary>
public sealed record RecipientView(Recipient Recipient, IReadOnlyList<BundlePart> Parts, bool IsKept);

/// <summary>A track as it would be printed.</summary>
/// <param name="Track">Its name.</param>
/// <param name="File">Name of the print; null where there is none.</param>
/// <param name="Refused">True where it cannot be printed as it sounds.</param>
/// <param name="OtherRate">True where that is for files of other rates, which can be converted.</param>
/// <param name="Notes">What is to be said of it.</param>
public sealed record TrackPrintView(string Track, string? File, bool Refused, bool OtherRate, IReadOnlyList<string> Notes);

/// <summary>What a bundle is made up of, the choice being free.</summary>
/// <param name="Parts">How much each part is, and what always goes.</param>
/// <param name="Standard">What goes along where nobody chose.</param>
/// <param name="Prints">The tracks as they would be printed; null where no document tells what is placed.</param>
public sealed record BundlePartsView(IReadOnlyList<BundlePartWeight> Parts, IReadOnlyList<BundlePart> Standard, IReadOnlyList<TrackPrintView>? Prints);

/// <summary>Requests about bundles.</summary>
public static class BundleEndpoints
{
    private const int MostShown = 200;
    private const string NoLongerThere = "This bundle is no longer where it was packed.";

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/sessions/{id:guid}/bundles").WithTags("Bundles");
        group.MapPost("plan", Plan).WithName("PlanBundle").ProducesProblem(400).ProducesProblem(404).ProducesValidationProblem();
        group.MapGet("parts", Parts).WithName("GetBundleParts").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("", List).WithName("ListBundles");
        var recipients = app.MapGroup("/api/recipients").WithTags("Bundles");
        recipients.MapGet("", (RecipientService kept) => TypedResults.Ok(Views(kept.All()))).WithName("ListRecipients");
        recipients.MapPut("", (Recipient recipient, RecipientService kept) => TypedResults.Ok(Views(kept.Save(recipient)))).WithName("SaveRecipient").ProducesValidationProblem();
        recipients.MapDelete("{name}", (string name, RecipientService kept) => TypedResults.Ok(Views(kept.Remove(name)))).WithName("RemoveRecipient").ProducesProblem(404);
        group.MapGet("{planId:guid}/file", Download).WithName("DownloadBundle").Produces(200, contentType: "application/zip").ProducesProblem(404);
        group.MapGet("{planId:guid}/opened", Opened).WithName("OpenBundle").ProducesProblem(404).ProducesProblem(503);
        group.MapGet("{planId:guid}/files/{name}", DownloadPart).WithName("DownloadBundlePart").Produces(200, contentType: "application/octet-stream").ProducesProblem(404);
    }

    private static async Task<Ok<PlanView>> Plan(
        Guid id, BundleChoice choice, SessionService sessions, ShelfService shelves, PlanJobs jobs, PlanService plans, CopyInChoices copies, RecipientService recipients, PackedSizes sizes,
        TimeProvider time, CancellationToken cancel)
    {
        var row = sessions.Get(id);
        var destination = ShelfPath.Resolve(shelves.Get(choice.ShelfId), choice.Path);
        return TypedResults.Ok(await jobs.Make($"Plan a bundle of '{Path.GetFileName(row.Folder)}'", row, job => BundlePlanner.Plan(new BundleRequest(
            id,
            sessions.InventoryOf(row, job.Cancel),
            shelves.All(),
            sessions.Folders(),
            destination,
            choice.Parts is { } parts ? parts.ToImmutableHashSet() : BundleParts.Standard,
            choice.Recipient?.Trim(),
            choice.Note,
            time.GetLocalNow())
        {
            Promised = plans.PromisedBundles,
            For = recipients.Of(choice.Recipient),
            Printing = PrintingOf(choice.Law, choice.ConvertsRates),
            Packing = choice.PacksSound == true ? sizes : null,
            Form = choice.Form ?? BundleForm.OneFile,
            PartBytes = choice.PartBytes ?? 0,
            Cancel = job.Cancel,
            LeftOutKinds = copies.Of(id).LeftOutKinds,
        }), cancel));
    }

    /// <summary>What each choice weighs, before one is made. While something records no sound is read for it: the disk belongs to the take.</summary>
    private static Ok<BundlePartsView> Parts(
        Guid id, SessionService sessions, ShelfService shelves, CopyInChoices copies, PackedSizes sizes, RecordingGuard guard, TimeProvider time, CancellationToken cancel, CrossfadeLaw? law = null,
        bool? convertsRates = null, bool? packsSound = null, BundlePart[]? parts = null)
    {
        var (inventory, known) = (sessions.InventoryOf(sessions.Get(id), cancel), shelves.All());
        var printing = PrintingOf(law, convertsRates);
        var print = TrackPrinter.Of(inventory, known, printing, time.GetLocalNow());
        return TypedResults.Ok(new BundlePartsView(
            BundleParts.Weigh(
                inventory, known, copies.Of(id).LeftOutKinds, print, printing, packsSound == true && guard.What is null ? sizes : null, parts is { Length: > 0 } ? parts.ToImmutableHashSet() : null, cancel), [.. BundleParts.Standard.Order()], print?.Tracks.Select(t => new TrackPrintView(t.Name, t.FileName, t.IsRefused, t.Notes.Any(n => n.Kind == PrintNoteKind.OtherRate), [.. t.Notes.Select(n => n.Sentence)])).ToList()));
    }

    private static RecipientView[] Views(IEnumerable<Recipient> all) => [.. all.Select(r => new RecipientView(r, [.. r.Parts.Order()], !Recipient.Standard.Contains(r)))];

    private static PrintChoice PrintingOf(CrossfadeLaw? law, bool? convertsRates) => new(law ?? CrossfadeLaw.EqualGain, convertsRates ?? false);

    private static Ok<BundleView[]> List(Guid id, PlanJournal journal, ShelfService shelves)
    {
        var known = shelves.All();
        return TypedResults.Ok(journal.Bundles(id, MostShown).Select(b => new BundleView(
            b.PlanId, Path.GetFileName(b.Path), PlanViews.Place(b.Path, known), b.Bytes, DateTimeOffset.FromUnixTimeMilliseconds(b.EndedMs), IsThere(b), [.. FilesOf(b).Select(f => Path.GetFileName(f)!)])).ToArray());
    }

    private static bool IsThere(MadeFile bundle) => FileFacts.Of(bundle.Path) is { } facts && (facts.Kind == EntryKind.Folder || facts.Bytes == bundle.Bytes);

    /// <summary>What can be downloaded of a bundle: the file, or the parts and the list of their check sums; of a folder nothing.</summary>
    private static IEnumerable<string> FilesOf(MadeFile bundle)
    {
        // What somebody put a link in the place of is not sent: it may lead anywhere.
        static bool IsFile(string path) => FileFacts.OfName(path) is { IsRegular: true };
        return IsFile(bundle.Path) ? [bundle.Path]
            : FileFacts.OfName(bundle.Path) is { Kind: EntryKind.Folder } && IsFile(Path.Combine(bundle.Path, PackBundleFolderStep.ListName)) ? Directory.GetFiles(bundle.Path).Where(IsFile).Order(StringComparer.Ordinal)
            : [];
    }

    /// <summary>The bundle as its recipient finds it, read from what was packed and from nothing else.</summary>
    private static Ok<OpenedBundle> Opened(Guid id, Guid planId, PlanJournal journal, RecipientService recipients, IDurableFiles files)
    {
        var bundle = journal.Bundles(id, MostShown).FirstOrDefault(b => b.PlanId == planId && FileFacts.Of(b.Path) is not null) ?? throw new NotKnownException(NoLongerThere);
        using var bag = new PackedBag(bundle.Path, files);
        return TypedResults.Ok(OpenedBundle.Of(bag, recipients.Of));
    }

    private static PhysicalFileHttpResult Download(Guid id, Guid planId, PlanJournal journal) => Send(id, planId, journal, null);

    private static PhysicalFileHttpResult DownloadPart(Guid id, Guid planId, string name, PlanJournal journal) => Send(id, planId, journal, name);

    /// <summary>Whoever was cut off goes on at the byte (RFC 9110, section 14).</summary>
    private static PhysicalFileHttpResult Send(Guid id, Guid planId, PlanJournal journal, string? name) =>
        journal.Bundles(id, MostShown).FirstOrDefault(b => b.PlanId == planId) is { } bundle && FilesOf(bundle).FirstOrDefault(f => name is null ? f == bundle.Path : Path.GetFileName(f) == name) is { } file
            ? TypedResults.PhysicalFile(file, file.EndsWith(".zip", StringComparison.Ordinal) ? "application/zip" : "application/octet-stream", Path.GetFileName(file), enableRangeProcessing: true)
            : throw new NotKnownException(NoLongerThere);
}
