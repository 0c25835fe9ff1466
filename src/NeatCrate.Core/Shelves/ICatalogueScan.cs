using System.Collections.Immutable;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Shelves;

/// <summary>What the catalogue keeps of a sound's header; the header itself is gone before the next one is read.</summary>
/// <param name="Container">Name of the format, as <see cref="MediaHeader.Container"/> has it.</param>
/// <param name="SampleRate">Sample rate in Hz.</param>
/// <param name="Channels">Number of channels.</param>
/// <param name="BitsPerSample">Meaningful bits per sample; 0 where the format has none.</param>
/// <param name="LengthSamples">Length in samples per channel, or null where the header does not tell.</param>
/// <param name="Texts">Texts that the file carries about itself, a line each; empty where it carries none.</param>
public sealed record ScannedSound(string Container, int SampleRate, int Channels, int BitsPerSample, long? LengthSamples, string Texts)
{
    /// <summary>Takes from a header what is kept.</summary>
    public static ScannedSound Of(MediaHeader header)
    {
        ArgumentNullException.ThrowIfNull(header);
        IEnumerable<string> texts = header.Tags.Select(t => t.Value);
        if (header.Broadcast is { Description.Length: > 0 } broadcast)
        {
            texts = texts.Append(broadcast.Description);
        }
        return new ScannedSound(header.Container, header.SampleRate, header.Channels, header.BitsPerSample, header.LengthSamples, string.Join('\n', texts));
    }
}

/// <summary>A file of a shelf as the catalogue keeps it.</summary>
/// <param name="File">What its folder tells of it.</param>
/// <param name="Kind">What kind of media it is; null for other files.</param>
/// <param name="Sound">What its header says, for audio that was understood.</param>
/// <param name="Problem">Why it cannot be read; null where nothing is wrong.</param>
public sealed record ScannedFile(FolderFile File, MediaKind? Kind, ScannedSound? Sound, Fault? Problem);

/// <summary>What changed in a folder of a shelf since it was looked at last.</summary>
/// <param name="Path">Path from the shelf's top folder; empty for that one itself.</param>
/// <param name="Fingerprint">Of its files now.</param>
/// <param name="Problem">Why it cannot be read; what was known of it is kept then.</param>
/// <param name="Changed">Files that are new or other than before.</param>
/// <param name="Gone">Names that are no longer there.</param>
/// <param name="Renumbered">Files that have another number on the drive, and are the same otherwise.</param>
public sealed record ScannedFolder(
    string Path, UInt128 Fingerprint, Fault? Problem, IReadOnlyList<ScannedFile> Changed, IReadOnlyCollection<string> Gone, IReadOnlyCollection<FolderFile> Renumbered);

/// <summary>What a scan asks of the catalogue, and what it tells it. All members may be called from many threads at once.</summary>
public interface ICatalogueScan
{
    /// <summary>The known folders of the shelf with the fingerprints of their files.</summary>
    IReadOnlyDictionary<string, UInt128> Folders { get; }

    /// <summary>The known files of one folder, by name.</summary>
    IReadOnlyDictionary<string, FolderFile> Files(string folder);

    /// <summary>Takes in what changed in a folder.</summary>
    void Put(ScannedFolder folder);

    /// <summary>Forgets folders that are gone, with all that was in them.</summary>
    void Forget(IReadOnlyCollection<string> folders);
}

/// <summary>What a scan is at.</summary>
public enum ScanPhase
{
    /// <summary>Looks through the folders.</summary>
    Looking,

    /// <summary>Reads the headers of what is new or changed.</summary>
    Reading,
}

/// <summary>How far a scan is.</summary>
/// <param name="Phase">What it is at.</param>
/// <param name="Folders">Folders looked at.</param>
/// <param name="Files">Files seen.</param>
/// <param name="ToRead">Files whose header has to be read; 0 until all folders were looked at.</param>
/// <param name="Read">Files whose header was read.</param>
/// <param name="Current">The folder at hand, from the shelf's top.</param>
public readonly record struct ScanProgress(ScanPhase Phase, int Folders, int Files, int ToRead, int Read, string Current);

/// <summary>What a whole scan came to.</summary>
/// <param name="Folders">Folders on the shelf.</param>
/// <param name="Files">Files on the shelf.</param>
/// <param name="Bytes">Their bytes in all.</param>
/// <param name="Changed">Files that were new or other than before.</param>
/// <param name="Gone">Folders that are gone.</param>
/// <param name="Problems">Folders that could not be read: path and reason.</param>
public sealed record ScanResult(int Folders, int Files, long Bytes, int Changed, int Gone, ImmutableArray<(string Path, Fault Reason)> Problems);
