using System.Collections.Immutable;
using System.Globalization;
using System.IO.Hashing;
using System.Text;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Inventory;

/// <summary>Where a file stands, seen from the session.</summary>
public enum Standing
{
    /// <summary>In the session folder.</summary>
    Inside,

    /// <summary>There, but elsewhere.</summary>
    Outside,

    /// <summary>On a shelf that is not connected.</summary>
    Away,

    /// <summary>No shelf has it at its path.</summary>
    Missing,
}

/// <summary>What the session does with a file.</summary>
public enum FileUse
{
    /// <summary>Placed by at least one clip in the current document.</summary>
    Placed,

    /// <summary>The current document of another program names it; whether it plays is not known.</summary>
    Named,

    /// <summary>Not in the current document, but in an older one in the folder.</summary>
    OlderOnly,

    /// <summary>On the session's list, not placed.</summary>
    Listed,

    /// <summary>In the folder, on no list.</summary>
    Stray,

    /// <summary>In the folder, and no document names it: what the document of another program plays besides is not known.</summary>
    NamedNowhere,

    /// <summary>A finished mix or print in the folder for bounces.</summary>
    Bounce,

    /// <summary>Not to be known, because a document of the session cannot be read.</summary>
    Unknown,

    /// <summary>Held in the session's holding place, out of every document.</summary>
    SetAside,
}

/// <summary>How far the names in the documents of other programs can be relied on.</summary>
/// <param name="Named">So many media files in the folder they name.</param>
/// <param name="Media">So many there are.</param>
public readonly record struct NamedShare(int Named, int Media)
{
    /// <summary>
    /// True where enough of them are named to say of a file that none names it: one in ten, since most takes of a session are often played by nothing.
    /// Where there are no media, there is nothing to say.
    /// </summary>
    public bool Tells => Media == 0 || Named * 10L >= Media;
}

/// <summary>What the session's documents say of the length of a file.</summary>
/// <param name="Seconds">Its length in seconds.</param>
/// <param name="Rate">Units in a second in which they state it: often, and not always, the file's sample rate. Null where they do not say.</param>
public sealed record StatedLength(double Seconds, double? Rate)
{
    // Frames and ticks are counted slower, samples are not.
    private const double LeastSampleRate = 8000;

    /// <summary>The sample rate in Hz, where the length is stated in samples; null where it is in frames, or nobody knows.</summary>
    public int? SampleRate => Rate is { } rate and >= LeastSampleRate and <= int.MaxValue && rate == Math.Floor(rate) ? (int)rate : null;
}

/// <summary>A media file that a session holds or points at.</summary>
public sealed record InventoryFile
{
    /// <summary>Absolute path; for a missing file where it should be.</summary>
    public required string Path { get; init; }

    /// <summary>Where the file stands.</summary>
    public required Standing Standing { get; init; }

    /// <summary>What the session does with it.</summary>
    public required FileUse Use { get; init; }

    /// <summary>The shelf that the path lies on, if one holds it.</summary>
    public Guid? ShelfId { get; init; }

    /// <summary>Name of that shelf.</summary>
    public string? ShelfName { get; init; }

    /// <summary>Path from the session folder for files inside, from the shelf for files on one, else absolute.</summary>
    public required string ShownPath { get; init; }

    /// <summary>True when its path lies in the session folder, whether the file is there or missing.</summary>
    public required bool BelongsInside { get; init; }

    /// <summary>How many clips of the current document place it.</summary>
    public int PlacedTimes { get; init; }

    /// <summary>True where a current document needs it: what it places, names, or has on its list.</summary>
    public bool IsNeededNow => Use is FileUse.Placed or FileUse.Named or FileUse.Listed;

    /// <summary>How often the current documents of other programs name it.</summary>
    public int NamedTimes { get; init; }

    /// <summary>Size in bytes; 0 while it is away or missing.</summary>
    public long Bytes { get; init; }

    /// <summary>Time of the last change (UTC); null while it is away or missing.</summary>
    public DateTime? ModifiedUtc { get; init; }

    /// <summary>What its header says; null for other media than audio, and for what cannot be read.</summary>
    public MediaHeader? Header { get; init; }

    /// <summary>What was known of it when its shelf was last scanned; null where the file is there, or was never seen.</summary>
    public KnownFile? Recalled { get; init; }

    /// <summary>For a missing one: absolute path of the file that stands in its place but for the way it is written, in other case, Unicode form or with backslashes.</summary>
    public string? WrittenOtherwise { get; init; }

    /// <summary>What is known of it: as it is where it is there, else as it was when its shelf was last scanned.</summary>
    public KnownFile? Known => ModifiedUtc is { } changed
        ? KnownFile.Of(Bytes, changed, Header)
        : Recalled;

    /// <summary>Its length as the documents state it; null where none does.</summary>
    public StatedLength? Stated { get; init; }

    /// <summary>How much of it clips of the current document need, in seconds from its start; null where that is not known.</summary>
    public double? NeededSeconds { get; init; }

    /// <summary>Why the header could not be read.</summary>
    public Fault? Problem { get; init; }

    /// <summary>Parts of the file in use, in samples, in order and apart; empty when nothing is placed.</summary>
    public ImmutableArray<SampleRange> Used { get; init; } = [];

    /// <summary>Tracks of the current document on which it is placed, in document order.</summary>
    public ImmutableArray<string> Tracks { get; init; } = [];

    /// <summary>The pointers to it, as the documents write them.</summary>
    public ImmutableArray<string> TargetUrls { get; init; } = [];

    /// <summary>Absolute paths of the sample instruments that play it.</summary>
    public ImmutableArray<string> Instruments { get; init; } = [];

    /// <summary>True for one that is only played through an instrument: no document points at it itself.</summary>
    public bool IsOnlySample => !Instruments.IsEmpty && TargetUrls.IsEmpty;

    /// <summary>Which take it is, where the current document says so.</summary>
    public TakeLabel? ListedTake { get; init; }

    /// <summary>Name of the track of which it is a render, where a document's list says so.</summary>
    public string? RenderOf { get; init; }

    /// <summary>What is odd about it.</summary>
    public ImmutableArray<Fault> Remarks { get; init; } = [];

    /// <summary>Name of the file without its folder.</summary>
    public string Name => System.IO.Path.GetFileName(Path);

    /// <summary>Its identity within its session: it follows from the path.</summary>
    public string Id => IdOf(Path);

    /// <summary>The identity that a file of this path has within its session.</summary>
    public static string IdOf(string path) => NumberOfPath(path).ToString("x16", CultureInfo.InvariantCulture);

    /// <summary>The same as a number, of which many are kept in less space.</summary>
    internal static ulong NumberOfPath(string path) => XxHash64.HashToUInt64(Encoding.UTF8.GetBytes(path));

    /// <summary>The number that an identity is written for; null for what is no identity.</summary>
    internal static ulong? NumberOf(string id) =>
        id.Length == 16 && id.All(char.IsAsciiHexDigitLower) && ulong.TryParse(id, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var number) ? number : null;
}

/// <summary>A document that stands in the session folder.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Current">True for the one that the session is worked in.</param>
/// <param name="Problem">Why it cannot be read, or null.</param>
/// <param name="Identity">Identity of its bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Document">What it says; null when it cannot be read.</param>
public sealed record InventoryDocument(string Path, bool Current, Fault? Problem, ByteIdentity Identity, DateTime ModifiedUtc, DocumentFacts? Document)
{
    /// <summary>What was read of it, so that the next state of it is read sooner; null where that is not awaited.</summary>
    internal DocumentReading? Reading { get; private init; }

    /// <summary>Reads a document; one that cannot be read says why.</summary>
    /// <param name="file">The document.</param>
    /// <param name="before">What was read of it last; null where it is new.</param>
    /// <param name="isWorkedIn">Whether it is likely to be saved again.</param>
    internal static InventoryDocument Read(SessionEntry file, InventoryDocument? before, bool isWorkedIn)
    {
        InventoryDocument Unread(Fault? problem, ByteIdentity identity) => new(file.Path, false, problem, identity, file.Facts.ModifiedUtc, null);
        if (DocumentFormats.IsPackedTimeline(file.Name))
        {
            return Unread(new Fault(FaultCode.DocumentOfUnknownFormat) { Name = System.IO.Path.GetExtension(file.Name) }, default);
        }
        ByteIdentity identity = default;
        try
        {
            var bytes = ReadableFile.ReadAll(file.Path, DocumentFormats.MostBytes);
            identity = ByteIdentity.Of(bytes);
            var reading = (DocumentFormats.Of(file.Name) ?? NamingDocument.Format).ReadAgain(bytes, before?.Reading, isWorkedIn);
            return Unread(reading.Facts.Names is null ? null : new Fault(FaultCode.DocumentOfAnotherProgram) { Name = file.Name }, identity) with { Document = reading.Facts, Reading = isWorkedIn ? reading : null };
        }
        catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
        {
            return Unread(FaultException.Of(e, file.Path), identity);
        }
    }

    /// <summary>True where nothing is known of it but what it names; it is never written.</summary>
    public bool IsNaming => Document?.Names is not null;

    /// <summary>True for the one that another program works in, beside the current one.</summary>
    public bool CountsNow { get; init; }

    /// <summary>When it is from, in local time: by the date in its name, else by its last change.</summary>
    public DateTime Dated => DatedName.TimeOf(System.IO.Path.GetFileNameWithoutExtension(Path), ModifiedUtc);
}

/// <summary>Everything that a session holds or points at, at one moment.</summary>
public sealed record SessionInventory
{
    /// <summary>Absolute path of the session folder.</summary>
    public required string Folder { get; init; }

    /// <summary>Grows with every change of a kept inventory.</summary>
    public long Revision { get; init; }

    /// <summary>What the current document says, or null when there is none that can be read; what is only named in one is no such thing.</summary>
    public DocumentFacts? Document => Current is { IsNaming: false, Document: { } document } ? document : null;

    /// <summary>Of the media files in the folder, how many the documents of other programs name; null where there are no such documents.</summary>
    public NamedShare? Named { get; init; }

    /// <summary>Where things stand in the folder: as the document says, else as they were found.</summary>
    public required SessionLayout Layout { get; init; }

    /// <summary>Documents in the folder: the current one first, then the newest by their dates.</summary>
    public required ImmutableArray<InventoryDocument> Documents { get; init; }

    /// <summary>All media files.</summary>
    public required ImmutableArray<InventoryFile> Files { get; init; }

    /// <summary>Other files in the folder: number and bytes.</summary>
    public required (int Files, long Bytes) Others { get; init; }

    /// <summary>What is odd about the session as a whole.</summary>
    public required ImmutableArray<Fault> Remarks { get; init; }

    /// <summary>Folders in which, and below which, nobody can say what is not used; none where all documents can be read.</summary>
    public ImmutableArray<string> UnknownFolders { get; init; } = [];

    /// <summary>The documents for which that is so, by their paths from the session folder.</summary>
    public ImmutableArray<string> UnknownFor { get; init; } = [];

    /// <summary>What is held set aside in the folder.</summary>
    public HoldingPlace Held { get; init; } = HoldingPlace.Nothing;

    /// <summary>Why the list of what is set aside cannot be used; null where it can. Until then nothing may be added to it or go from it.</summary>
    public Fault? HeldProblem { get; init; }

    /// <summary>True for a path of which nobody can say that it is not used.</summary>
    public bool IsUseUnknown(string path) => UnknownFolders.Any(f => ShelfPath.IsWithin(path, f));

    /// <summary>True where the session card states which document is current; false where it was chosen by its date.</summary>
    public required bool CurrentIsStated { get; init; }

    /// <summary>The current document, readable or not; null when the folder holds none.</summary>
    public InventoryDocument? Current => Documents.FirstOrDefault(d => d.Current);

    /// <summary>True where the current document is of another program: it is known what it names, and nothing else.</summary>
    public bool IsByNames => Current is { IsNaming: true };

    /// <summary>Names of the documents that other programs work in now.</summary>
    public ImmutableArray<string> NamingNow => [.. Documents.Where(d => d.IsNaming && (d.Current || d.CountsNow)).Select(d => System.IO.Path.GetFileName(d.Path))];

    /// <summary>The files that stand somewhere.</summary>
    public IEnumerable<InventoryFile> Standing(Standing standing) => Files.Where(f => f.Standing == standing);
}
