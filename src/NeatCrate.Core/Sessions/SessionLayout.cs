using NeatCrate.Core.Media;

namespace NeatCrate.Core.Sessions;

/// <summary>The sub-folders of a session folder, as paths relative to it with forward slashes.</summary>
/// <param name="Audio">Where takes and copied samples go.</param>
/// <param name="Bounces">Where finished mixes and prints go.</param>
/// <param name="OlderDocuments">Where documents from earlier days go.</param>
/// <param name="WaveformCache">Where waveform caches go, out of sight.</param>
/// <param name="Others">Folders that people add by hand.</param>
public sealed record SessionLayout(
    string Audio = "Audio",
    string Bounces = "Bounces",
    string OlderDocuments = "Older documents",
    string WaveformCache = ".waveforms",
    IReadOnlyList<string>? Others = null)
{
    /// <summary>Where kept states of the documents go, out of everything else.</summary>
    public const string DocumentBackups = "Document backups";

    /// <summary>At the top of the shelf that is the second place of kept states: a folder for each session below it.</summary>
    public const string DocumentBackupsElsewhere = "Neat Crate document backups";

    /// <summary>The layout that a session gets when nobody says otherwise.</summary>
    public static SessionLayout Default { get; } = new(Others: ["Notes"]);

    /// <summary>
    /// The layout of a session that some other program set up: the standard one, with the audio folder where most of the
    /// sound is, so that takes are looked for, and put, where that program puts them.
    /// </summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="files">Absolute paths of its files.</param>
    public static SessionLayout Found(string folder, IEnumerable<string> files)
    {
        var standard = Default;
        var folders = files.Where(f => MediaFiles.KindOf(f) == MediaKind.Audio)
            .Select(f => Path.GetRelativePath(folder, Path.GetDirectoryName(f)!))
            .Where(f => f != "." && f[0] != '.' && f != standard.Bounces && f != standard.OlderDocuments).ToList();
        return folders.Count == 0 || Directory.Exists(Path.Combine(folder, standard.Audio))
            ? standard
            : standard with { Audio = folders.CountBy(f => f).OrderByDescending(f => f.Value).ThenBy(f => f.Key, StringComparer.Ordinal).First().Key };
    }

    // Where caches go whose own folder is in use, in this order.
    private static readonly string[] CacheFolders = [".waveforms", ".waveform caches"];

    /// <summary>
    /// True where the folder for waveform caches is, or holds, another folder of the session: then it is no folder of caches, whatever a
    /// document says, and what stands in it is nothing that is drawn again.
    /// </summary>
    public bool CacheIsInUse => IsInUse(WaveformCache);

    /// <summary>The layout with a folder for waveform caches that holds nothing else.</summary>
    public SessionLayout WithCacheOfItsOwn() => CacheIsInUse ? this with { WaveformCache = CacheFolders.First(f => !IsInUse(f)) } : this;

    private bool IsInUse(string cache)
    {
        string[] others = [Audio, Bounces, OlderDocuments, .. Others ?? [], DocumentBackups, HoldingPlace.FolderName];
        return Array.Exists(others, o => o == cache || o.StartsWith(cache + "/", StringComparison.Ordinal));
    }

    /// <summary>True for a relative path that stays below its folder, whoever wrote it.</summary>
    public static bool IsBelow(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return path.Length > 0 && path[0] != '/' && !path.Contains('\0', StringComparison.Ordinal) && !path.Split('/').Any(p => p is ".." or "." or "");
    }

    /// <summary>All folders in the order in which they are shown.</summary>
    public IEnumerable<string> All => [Audio, Bounces, OlderDocuments, .. Others ?? [], WaveformCache];
}

/// <summary>The settings that a session is made with.</summary>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="BitDepth">Bits per sample.</param>
/// <param name="Tempo">Beats per minute.</param>
/// <param name="TimeSignature">Time signature, as <c>6/8</c>.</param>
/// <param name="ExpectedMinutes">How long the song is expected to be, in minutes.</param>
/// <param name="CopyOnImport">Whether samples are copied in when they are imported, which they should be.</param>
/// <param name="BackupMinutes">How often the document is kept by itself, in minutes; 0 for never.</param>
/// <param name="BackupsKept">How many of the newest backups are all kept.</param>
/// <param name="MirrorShelfId">The shelf to which takes are recorded a second time; null for none.</param>
public sealed record SessionSettings(
    int SampleRate = 48000,
    int BitDepth = 24,
    double Tempo = 120,
    string TimeSignature = "4/4",
    double ExpectedMinutes = 4,
    bool CopyOnImport = true,
    int BackupMinutes = 10,
    int BackupsKept = 10,
    Guid? MirrorShelfId = null);
