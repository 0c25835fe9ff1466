using System.Collections.Immutable;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Inventory;

namespace NeatCrate.Core.Bundles;

/// <summary>Which sound files of a session go packed without loss, and what stands in the way.</summary>
internal static class LosslessPacking
{
    /// <summary>Extension of what is packed.</summary>
    public const string Extension = ".flac";

    /// <summary>The files in whose place packed ones go, by absolute path.</summary>
    /// <param name="inventory">The session.</param>
    /// <param name="sizes">How large files get; null where sound goes as it is.</param>
    /// <param name="goes">Which documents go along; null for all.</param>
    /// <param name="cancel">Stops the looking.</param>
    public static IReadOnlyDictionary<string, ImmutableArray<InsteadOf>> Of(SessionInventory inventory, PackedSizes? sizes, Predicate<InventoryDocument>? goes, CancellationToken cancel)
    {
        if (sizes is null || Hinders(inventory, goes) is not null)
        {
            return ImmutableDictionary<string, ImmutableArray<InsteadOf>>.Empty;
        }
        // An instrument that plays samples is another program's, which may read no packed ones.
        var files = inventory.Files.Where(f => f.Standing is Standing.Inside or Standing.Outside && f.Instruments.IsEmpty && IsNamedAsItIs(f))
            .Select(f => (f.Path, Real: RealPath.Of(f.Path))).SelectMany(f => FileFacts.Of(f.Real) is { IsRegular: true } facts
                ? new[] { (f.Path, Whole: new WholeFile(f.Real, new FileState(facts.Bytes, facts.ModifiedUtc))) }
                : []).ToList();
        sizes.Learn(files.Select(f => f.Whole), cancel);
        return files.Select(f => (f.Path, f.Whole, Bytes: sizes.Of(f.Whole)))
            // What gets no smaller goes as it is.
            .Where(f => f.Bytes < f.Whole.Expected.Bytes)
            .ToImmutableDictionary(
                f => f.Path,
                f => ImmutableArray.Create(new InsteadOf(new PackedSound(f.Whole, Path.GetExtension(f.Path)), f.Bytes!.Value) { Name = Path.GetFileNameWithoutExtension(f.Path) + Extension }),
                StringComparer.Ordinal);
    }

    /// <summary>The tool that brings a file back asks its name what it is to be.</summary>
    private static bool IsNamedAsItIs(InventoryFile file) => file.Header?.Container switch
    {
        "WAV" => Path.GetExtension(file.Path).ToUpperInvariant() is ".WAV" or ".WAVE" or ".BWF",
        "AIFF" => Path.GetExtension(file.Path).ToUpperInvariant() is ".AIF" or ".AIFF",
        _ => false,
    };

    /// <summary>Why nothing is packed: a document that goes along and cannot be pointed at what its files become. Null where nothing hinders.</summary>
    public static Fault? Hinders(SessionInventory inventory, Predicate<InventoryDocument>? goes) =>
        inventory.Documents.FirstOrDefault(d => (goes?.Invoke(d) ?? true) && (d.Document is null || d.IsNaming)) is { } document
            ? new Fault(FaultCode.PackingNeedsDocument) { Name = Path.GetFileName(document.Path) }
            : null;
}
