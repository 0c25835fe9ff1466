using System.Text;
using CsvHelper;

namespace NeatCrate.App.Words;

/// <summary>Tables for spreadsheets and for the archive (CSV, RFC 4180).</summary>
public static class Csv
{
    // What would be a formula to a spreadsheet is written so that it stays text.
    private static readonly CsvWriterOptions Format = new() { NewLine = "\r\n", Injection = CsvInjection.Escape };

    /// <summary>A table as UTF-8, with the mark at its start by which spreadsheets know that.</summary>
    /// <param name="columns">Titles of the columns.</param>
    /// <param name="lines">The lines, as many fields in each as there are columns.</param>
    public static byte[] Write(string[] columns, IEnumerable<string[]> lines)
    {
        ArgumentNullException.ThrowIfNull(lines);
        using var stream = new MemoryStream();
        using (var csv = CsvWriter.Create(new StreamWriter(stream, new UTF8Encoding(true)), Format, leaveOpen: false))
        {
            csv.WriteHeader(columns);
            foreach (var line in lines)
            {
                csv.WriteRecord(line);
            }
        }
        return stream.ToArray();
    }
}
