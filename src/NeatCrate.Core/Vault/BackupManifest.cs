using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Vault;

/// <summary>What a full backup says of itself: the second line of its manifest.</summary>
public sealed record BackupHeader
{
    /// <summary>The session, as this machine knew it.</summary>
    public required Guid Session { get; init; }

    /// <summary>Name of the session folder.</summary>
    public required string Folder { get; init; }

    /// <summary>When it was made (UTC), by the clock of whoever made it.</summary>
    public required DateTime Made { get; init; }

    /// <summary>How many backups the vault had seen with this one; null in those of before that was counted.</summary>
    public long? Number { get; init; }

    /// <summary>Path of the document that was current, from the session folder; null where there was none.</summary>
    public string? Document { get; init; }

    /// <summary>What was said of it by hand.</summary>
    public string? Note { get; init; }

    /// <summary>How many files it holds.</summary>
    public required int Files { get; init; }

    /// <summary>Their bytes, whether the vault held them before or not.</summary>
    public required long Bytes { get; init; }

    /// <summary>Bytes that the vault did not hold before.</summary>
    public required long NewBytes { get; init; }

    /// <summary>Paths of what was to go in and could not.</summary>
    public ImmutableArray<string> LeftOut { get; init; } = [];

    /// <summary>Why each of them could not, in the same order, in the words of <see cref="BackupLeftOut"/>; empty where nobody wrote it down.</summary>
    public ImmutableArray<string> LeftOutWhy { get; init; } = [];

    /// <summary>Paths of what was away or missing, and is in as the backup before had it.</summary>
    public ImmutableArray<string> TakenOver { get; init; } = [];

    /// <summary>Absolute path of the session folder; null where nobody wrote it down.</summary>
    public string? Stood { get; init; }

    /// <summary>Permission bits of the session folder, in octal digits; null where nobody wrote them down.</summary>
    public string? FolderMode { get; init; }

    /// <summary>Time of the session folder (UTC, ISO 8601); null where nobody wrote it down.</summary>
    public string? FolderModified { get; init; }
}

/// <summary>A file in a full backup.</summary>
/// <param name="Path">Its path from the session folder, with forward slashes.</param>
/// <param name="Hash">Its content.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="ModifiedUtc">Its time of the last change.</param>
/// <param name="Mode">Its permission bits.</param>
/// <param name="Outside">For what stands outside the session: the absolute path that it has.</param>
/// <param name="ModifiedRest">What its time has beyond a step of 100 ns, in nanoseconds.</param>
public sealed record BackupEntry(string Path, ContentHash Hash, long Bytes, DateTime ModifiedUtc, int Mode, string? Outside = null, int ModifiedRest = 0);

/// <summary>A full backup: everything that belonged to a session at one time (docs/formats.md, "Vault").</summary>
/// <param name="Header">What it says of itself.</param>
/// <param name="Entries">Its files, by path.</param>
/// <param name="Folders">Its folders, by path; of backups of before folders were noted those alone that held nothing.</param>
public sealed record BackupManifest(BackupHeader Header, ImmutableArray<BackupEntry> Entries, ImmutableArray<BackupFolder> Folders)
{
    /// <summary>Where the pointers of documents led that would lead elsewhere from another place.</summary>
    public ImmutableArray<BackupPointers> Pointers { get; init; } = [];

    /// <summary>Where what stands outside goes, below the session folder.</summary>
    public const string OutsideFolder = "Outside media";

    // What Linux takes (limits.h: NAME_MAX, PATH_MAX); folders in each other, far more than anybody makes.
    private const int MostFolders = 128;
    private const int MostNameBytes = 255;
    private const int MostPathBytes = 4096;

    private const string FirstLine = "# neat-crate backup 1";
    private const string Comment = "# ";
    private const string End = "# end ";

    private static readonly UTF8Encoding Utf8 = new(false, true);
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = System.Text.Json.Serialization.JsonIgnoreCondition.WhenWritingNull,
        PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>A line of facts: of the file in the next line, of a folder, or of the pointers of a document.</summary>
    private sealed record FactsLine
    {
        public long? Bytes { get; init; }

        public string? Modified { get; init; }

        public string? Mode { get; init; }

        public string? Outside { get; init; }

        public string? Folder { get; init; }

        public bool? Filled { get; init; }

        public string? PointersOf { get; init; }

        public ImmutableArray<BackupPointer>? Pointers { get; init; }
    }

    /// <summary>The manifest as it is written.</summary>
    public byte[] ToUtf8()
    {
        var text = new StringBuilder().Append(FirstLine).Append('\n').Append(Comment).Append(JsonSerializer.Serialize(Header, Json)).Append('\n');
        foreach (var folder in Folders.Where(f => f.Path.Length > 0))
        {
            Line(text, new FactsLine { Folder = folder.Path, Mode = folder.Mode is { } m ? Octal(m) : null, Modified = folder.Time is { } t ? ExactTimes.Write(t) : null, Filled = folder.IsEmpty ? null : true });
        }
        foreach (var document in Pointers)
        {
            Line(text, new FactsLine { PointersOf = document.Document, Pointers = document.Pointers });
        }
        foreach (var entry in Entries)
        {
            Line(text, new FactsLine { Bytes = entry.Bytes, Modified = ExactTimes.Write(entry.ModifiedUtc, entry.ModifiedRest), Mode = Octal(entry.Mode), Outside = entry.Outside });
            var escaped = Escaped(entry.Path);
            text.Append(escaped.Length == entry.Path.Length ? "" : "\\").Append(entry.Hash.ToString()).Append("  ").Append(escaped).Append('\n');
        }
        var above = Utf8.GetBytes(text.ToString());
        return [.. above, .. Utf8.GetBytes(End + ContentHash.Of(above) + "\n")];
    }

    private static void Line(StringBuilder text, FactsLine facts) => text.Append(Comment).Append(JsonSerializer.Serialize(facts, Json)).Append('\n');

    private static string Octal(int mode) => Convert.ToString(mode, 8);

    /// <summary>Permission bits in octal digits. What lets a program run as somebody else comes out of no backup.</summary>
    private static int Mode(string octal)
    {
        const int MostDigits = 4;
        return octal.Length is > 0 and <= MostDigits && octal.All(c => c is >= '0' and <= '7') ? Convert.ToInt32(octal, 8) & 0x1FF : throw new FormatException("A mode in it is none.");
    }

    /// <summary>Reads a manifest, every byte of it accounted for.</summary>
    /// <param name="utf8">Its bytes.</param>
    /// <param name="place">Where it stands, for whoever is told.</param>
    /// <exception cref="FaultException">It is damaged (<see cref="FaultCode.ManifestDamaged"/>), or of a later version (<see cref="FaultCode.ManifestOfLaterVersion"/>).</exception>
    public static BackupManifest Read(byte[] utf8, string place)
    {
        ArgumentNullException.ThrowIfNull(utf8);
        try
        {
            return Parse(utf8, place);
        }
        catch (Exception e) when (e is JsonException or FormatException or DecoderFallbackException or OverflowException or ArgumentException)
        {
            throw new FaultException(new Fault(FaultCode.ManifestDamaged) { Path = place, Detail = e.Message }, e);
        }
    }

    /// <summary>Reads only what a manifest says of itself, from its beginning; whether the rest is whole is not looked at.</summary>
    /// <param name="utf8">Its first bytes, two lines at the least.</param>
    /// <param name="place">Where it stands, for whoever is told.</param>
    /// <exception cref="FaultException">As <see cref="Read"/> throws it.</exception>
    public static BackupHeader ReadHeader(ReadOnlySpan<byte> utf8, string place)
    {
        try
        {
            var first = utf8.IndexOf((byte)'\n');
            var second = first < 0 ? -1 : utf8[(first + 1)..].IndexOf((byte)'\n');
            return second < 0 ? throw new FormatException("It ends before its second line.") : ReadHeader(Utf8.GetString(utf8[..first]), Utf8.GetString(utf8.Slice(first + 1, second)), place);
        }
        catch (Exception e) when (e is JsonException or FormatException or DecoderFallbackException)
        {
            throw new FaultException(new Fault(FaultCode.ManifestDamaged) { Path = place, Detail = e.Message }, e);
        }
    }

    private static BackupHeader ReadHeader(string first, string second, string place)
    {
        if (first != FirstLine)
        {
            throw first.StartsWith("# neat-crate backup ", StringComparison.Ordinal)
                ? new FaultException(FaultCode.ManifestOfLaterVersion, place)
                : new FormatException($"It does not begin with '{FirstLine}'.");
        }
        return second.StartsWith(Comment, StringComparison.Ordinal) ? JsonSerializer.Deserialize<BackupHeader>(second[Comment.Length..], Json) ?? throw new FormatException("Its second line says nothing of it.") : throw new FormatException("Its second line says nothing of it.");
    }

    private static BackupManifest Parse(byte[] utf8, string place)
    {
        // The last line vouches for all before it.
        var last = utf8.AsSpan(0, Math.Max(0, utf8.Length - 1)).LastIndexOf((byte)'\n') + 1;
        var end = Utf8.GetString(utf8.AsSpan(last));
        if (utf8.Length == 0 || utf8[^1] != '\n' || end != End + ContentHash.Of(utf8.AsSpan(0, last)) + "\n")
        {
            throw new FormatException("Its last line does not vouch for it.");
        }
        var lines = Utf8.GetString(utf8.AsSpan(0, Math.Max(0, last - 1))).Split('\n');
        var header = ReadHeader(lines[0], lines.Length > 1 ? lines[1] : "", place);
        var entries = ImmutableArray.CreateBuilder<BackupEntry>();
        var folders = ImmutableArray.CreateBuilder<BackupFolder>();
        var pointers = ImmutableArray.CreateBuilder<BackupPointers>();
        if (header.FolderMode is not null || header.FolderModified is not null)
        {
            folders.Add(new BackupFolder("", header.FolderMode is { } own ? Mode(own) : null, header.FolderModified is { } at ? ExactTimes.ReadNanoseconds(at) : null, false));
        }
        FactsLine? facts = null;
        foreach (var line in lines.Skip(2))
        {
            if (line.StartsWith('#'))
            {
                facts = JsonSerializer.Deserialize<FactsLine>(line.AsSpan(Math.Min(Comment.Length, line.Length)), Json);
                if (facts?.Folder is { } folder)
                {
                    folders.Add(new BackupFolder(Inside(folder), facts.Mode is { } m ? Mode(m) : null, facts.Modified is { } t ? ExactTimes.ReadNanoseconds(t) : null, facts.Filled is not true));
                }
                else if (facts is { PointersOf: { } document, Pointers: { } led })
                {
                    pointers.Add(new BackupPointers(Inside(document), led.All(p => p is { Url: not null, Path: not null }) ? led : throw new FormatException("A pointer in it leads nowhere.")));
                }
                continue;
            }
            if (facts is not { Bytes: { } bytes, Modified: { } modified, Mode: { } mode })
            {
                throw new FormatException("A file in it has no size, time or mode.");
            }
            var isEscaped = line.StartsWith('\\');
            var rest = isEscaped ? line[1..] : line;
            if (rest.Length < ContentHash.Digits + 2 || !ContentHash.TryParse(rest.AsSpan(0, ContentHash.Digits), out var hash) || rest.AsSpan(ContentHash.Digits, 2) is not "  ")
            {
                throw new FormatException("A line in it names no content.");
            }
            var path = rest[(ContentHash.Digits + 2)..];
            var (changed, beyond) = ExactTimes.Read(modified);
            entries.Add(new BackupEntry(Inside(isEscaped ? Unescaped(path) : path), hash, bytes, changed, Mode(mode), facts.Outside, beyond));
            facts = null;
        }
        return new BackupManifest(header, entries.ToImmutable(), folders.ToImmutable()) { Pointers = pointers.ToImmutable() };
    }

    /// <summary>A path below the session folder; one that would lead out of it makes the manifest unusable, whoever wrote that.</summary>
    private static string Inside(string path) =>
        !SessionLayout.IsBelow(path) ? throw new FormatException("A path in it leads elsewhere.")
        : path.Count(c => c == '/') >= MostFolders || Utf8.GetByteCount(path) > MostPathBytes || path.Split('/').Any(p => Utf8.GetByteCount(p) > MostNameBytes) ? throw new FormatException("A path in it is longer than any system takes.")
        : path;

    /// <summary>As coreutils' sha512sum writes names: a backslash, a line feed and a carriage return by two characters each.</summary>
    private static string Escaped(string path) =>
        path.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\n", "\\n", StringComparison.Ordinal).Replace("\r", "\\r", StringComparison.Ordinal);

    private static string Unescaped(string path)
    {
        var text = new StringBuilder(path.Length);
        for (var i = 0; i < path.Length; i++)
        {
            text.Append(path[i] != '\\' ? path[i] : (++i < path.Length ? path[i] : '\0') switch
            {
                '\\' => '\\',
                'n' => '\n',
                'r' => '\r',
                _ => throw new FormatException("A name in it is written as nobody writes it."),
            });
        }
        return text.ToString();
    }
}
