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

    /// <summary>When it was made (UTC).</summary>
    public required DateTime Made { get; init; }

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

    /// <summary>Paths of what was to go in and could not be read.</summary>
    public ImmutableArray<string> LeftOut { get; init; } = [];
}

/// <summary>A file in a full backup.</summary>
/// <param name="Path">Its path from the session folder, with forward slashes.</param>
/// <param name="Hash">Its content.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="ModifiedUtc">Its time of the last change.</param>
/// <param name="Mode">Its permission bits.</param>
/// <param name="Outside">For what stands outside the session: the absolute path that it has.</param>
public sealed record BackupEntry(string Path, ContentHash Hash, long Bytes, DateTime ModifiedUtc, int Mode, string? Outside = null);

/// <summary>A full backup: everything that belonged to a session at one time (docs/formats.md, "Vault").</summary>
/// <param name="Header">What it says of itself.</param>
/// <param name="Entries">Its files, by path.</param>
/// <param name="EmptyFolders">Paths of folders that held nothing.</param>
public sealed record BackupManifest(BackupHeader Header, ImmutableArray<BackupEntry> Entries, ImmutableArray<string> EmptyFolders)
{
    /// <summary>Where what stands outside goes, below the session folder.</summary>
    public const string OutsideFolder = "Outside media";

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

    private sealed record FileLine(long? Bytes, DateTime? Modified, string? Mode, string? Outside, string? Folder);

    /// <summary>The manifest as it is written.</summary>
    public byte[] ToUtf8()
    {
        var text = new StringBuilder().Append(FirstLine).Append('\n').Append(Comment).Append(JsonSerializer.Serialize(Header, Json)).Append('\n');
        foreach (var folder in EmptyFolders)
        {
            text.Append(Comment).Append(JsonSerializer.Serialize(new FileLine(null, null, null, null, folder), Json)).Append('\n');
        }
        foreach (var entry in Entries)
        {
            var facts = new FileLine(entry.Bytes, entry.ModifiedUtc, Convert.ToString(entry.Mode, 8), entry.Outside, null);
            text.Append(Comment).Append(JsonSerializer.Serialize(facts, Json)).Append('\n');
            var escaped = Escaped(entry.Path);
            text.Append(escaped.Length == entry.Path.Length ? "" : "\\").Append(entry.Hash.ToString()).Append("  ").Append(escaped).Append('\n');
        }
        var above = Utf8.GetBytes(text.ToString());
        return [.. above, .. Utf8.GetBytes(End + ContentHash.Of(above) + "\n")];
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
        catch (Exception e) when (e is JsonException or FormatException or DecoderFallbackException or OverflowException)
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
            return second < 0 ? throw new FormatException("It ends before its second line.") : Header2(Utf8.GetString(utf8[..first]), Utf8.GetString(utf8.Slice(first + 1, second)), place);
        }
        catch (Exception e) when (e is JsonException or FormatException or DecoderFallbackException)
        {
            throw new FaultException(new Fault(FaultCode.ManifestDamaged) { Path = place, Detail = e.Message }, e);
        }
    }

    private static BackupHeader Header2(string first, string second, string place)
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
        var header = Header2(lines[0], lines.Length > 1 ? lines[1] : "", place);
        var entries = ImmutableArray.CreateBuilder<BackupEntry>();
        var folders = ImmutableArray.CreateBuilder<string>();
        FileLine? facts = null;
        foreach (var line in lines.Skip(2))
        {
            if (line.StartsWith('#'))
            {
                facts = JsonSerializer.Deserialize<FileLine>(line.AsSpan(Math.Min(Comment.Length, line.Length)), Json);
                if (facts?.Folder is { } folder)
                {
                    folders.Add(Inside(folder));
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
            entries.Add(new BackupEntry(Inside(isEscaped ? Unescaped(path) : path), hash, bytes, modified.ToUniversalTime(), Convert.ToInt32(mode, 8) & 0xFFF, facts.Outside));
            facts = null;
        }
        return new BackupManifest(header, entries.ToImmutable(), folders.ToImmutable());
    }

    /// <summary>A path below the session folder; one that would lead out of it makes the manifest unusable, whoever wrote that.</summary>
    private static string Inside(string path) => SessionLayout.IsBelow(path) ? path : throw new FormatException("A path in it leads elsewhere.");

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
