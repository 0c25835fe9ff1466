using System.Globalization;
using NeatCrate.App.Words;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;

namespace NeatCrate.App.LoadingBay;

/// <summary>A written report of a session's inventory: a line for every file (CSV, RFC 4180), for spreadsheets and for the archive.</summary>
public static class InventoryReport
{
    private static readonly string[] Columns =
    [
        "Name", "Path", "Standing", "Use", "Placed times", "Tracks", "Shelf", "Comes from", "Left out", "Bytes", "Changed (UTC)", "Format", "Sample rate", "Bits", "Channels",
        "Length in samples", "Length in seconds", "Remarks",
    ];

    /// <summary>The report as UTF-8, with the mark at its start by which spreadsheets know that.</summary>
    public static byte[] Write(SessionInventory inventory, OutsideFiles outside)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(outside);
        return Csv.Write(Columns, inventory.Files.Select(f => Line(f, outside)));
    }

    private static string[] Line(InventoryFile file, OutsideFiles outside)
    {
        var known = file.Known;
        return
        [
            file.Name,
            file.Path,
            $"{file.Standing}",
            $"{file.Use}",
            Number(file.PlacedTimes),
            string.Join("; ", file.Tracks),
            file.ShelfName ?? "",
            outside.OriginOf(file)?.Name ?? "",
            outside.IsLeftOut(file) ? "yes" : "",
            Number(known?.Bytes),
            known?.ModifiedUtc.ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture) ?? "",
            known?.Container ?? "",
            Number(known?.SampleRate),
            Number(known?.BitsPerSample),
            Number(known?.Channels),
            Number(known?.LengthSamples),
            known?.LengthSeconds?.ToString("0.000", CultureInfo.InvariantCulture) ?? "",
            Sentences.Of(file.Problem is null ? file.Remarks : file.Remarks.Insert(0, file.Problem)),
        ];
    }

    private static string Number(long? value) => value?.ToString(CultureInfo.InvariantCulture) ?? "";
}
