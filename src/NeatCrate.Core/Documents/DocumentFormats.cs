using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>The kinds of document that can be read, and the files of other kinds that may be documents.</summary>
public static class DocumentFormats
{
    /// <summary>A document of more bytes is not read: it holds something else than a session.</summary>
    public const long MostBytes = 256L * 1024 * 1024;

    // Text, pictures, print, tables, packed files, checksums and subtitles: none of them points at sound.
    private static readonly HashSet<string> Harmless = new(
        [
            ".txt", ".md", ".rtf", ".log", ".nfo", ".pdf", ".ps", ".eps", ".doc", ".docx", ".odt", ".pages", ".tex", ".htm", ".html", ".css", ".url", ".webloc", ".desktop", ".lnk",
            ".jpg", ".jpeg", ".png", ".gif", ".bmp", ".tif", ".tiff", ".webp", ".heic", ".svg", ".ico", ".psd", ".xcf",
            ".csv", ".tsv", ".xls", ".xlsx", ".ods", ".ppt", ".pptx", ".odp", ".ics", ".vcf", ".eml",
            ".zip", ".7z", ".rar", ".tar", ".gz", ".bz2", ".xz", ".zst", ".iso", ".dmg",
            ".md5", ".sha1", ".sha256", ".sha512", ".sfv", ".par2", ".sig", ".asc",
            ".srt", ".lrc", ".vtt", ".musicxml", ".mxl", ".ly", ".abc", ".cho", ".ttf", ".otf", ".part", ".tmp", ".cache",
        ],
        StringComparer.OrdinalIgnoreCase);

    /// <summary>The kinds that can be read.</summary>
    public static IReadOnlyList<IDocumentFormat> All { get; } = [OpenTimeline.Format, SfzInstrument.Format];

    /// <summary>The format of a file by its name; null for one that is no document that can be read.</summary>
    public static IDocumentFormat? Of(string path)
    {
        var name = Path.GetFileName(path);
        return All.FirstOrDefault(f => f.Recognises(name));
    }

    /// <summary>True for the name of a session document of a kind that is known and not read yet: OpenTimelineIO packed with its media.</summary>
    public static bool IsPackedTimeline(string name) => Path.GetExtension(name).Equals(".otioz", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads a document for the part of it that is needed.</summary>
    /// <typeparam name="T">The part.</typeparam>
    /// <param name="name">Its name, or its path, by which its format is known; one of no known name may be a session document all the same.</param>
    /// <param name="bytes">Its bytes.</param>
    /// <exception cref="UnreadableDocumentException">It is none of its kind, is of another program, or has no such part (<see cref="FaultCode.DocumentLacksPart"/>).</exception>
    public static T Read<T>(string name, byte[] bytes) where T : class, IMediaPointers
    {
        var (known, file) = (Of(name), Path.GetFileName(name));
        var format = known ?? OpenTimeline.Format;
        try
        {
            return format.Read(bytes) as T ?? throw new UnreadableDocumentException(new Fault(FaultCode.DocumentLacksPart) { Name = file, Other = format.Name });
        }
        catch (UnreadableDocumentException) when (known is null && file.Length > 0)
        {
            throw new UnreadableDocumentException(new Fault(FaultCode.DocumentOfAnotherProgram) { Name = file });
        }
    }

    /// <summary>The same of a file.</summary>
    /// <exception cref="FaultException">It cannot be read, is none of its kind, or has no such part.</exception>
    public static T ReadFile<T>(string path) where T : class, IMediaPointers => Read<T>(path, ReadableFile.ReadAll(path, MostBytes));

    /// <summary>True for what a program keeps beside one media file, under its whole name and one more extension: outlines, analyses (common practice).</summary>
    private static bool IsCacheOf(string name) => MediaFiles.KindOf(Path.GetFileNameWithoutExtension(name)) is not null;

    /// <summary>
    /// True for a file that is neither media, nor a document that can be read, nor of a kind that surely points at no sound:
    /// until it is known better it counts as a document that nobody can read.
    /// </summary>
    /// <param name="path">Its path. Hidden files are caches and choices of other programs, and count as harmless.</param>
    /// <param name="bytes">Its size; what is empty points at nothing.</param>
    public static bool MayBeADocument(string path, long bytes)
    {
        var name = Path.GetFileName(path);
        return bytes > 0 && name.Length > 0 && name[0] != '.' && !Harmless.Contains(Path.GetExtension(name)) && Of(name) is null
            && MediaFiles.KindOf(name) is null && !Litter.IsFile(name) && !IsCacheOf(name);
    }
}
