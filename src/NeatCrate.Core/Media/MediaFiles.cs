using System.Collections.Frozen;

namespace NeatCrate.Core.Media;

/// <summary>What kind of media a file is.</summary>
public enum MediaKind
{
    /// <summary>Sound.</summary>
    Audio,

    /// <summary>Moving pictures.</summary>
    Video,

    /// <summary>A standard MIDI file.</summary>
    Midi,

    /// <summary>A sample-instrument file.</summary>
    Instrument,
}

/// <summary>Tells media files from other files by their extension.</summary>
public static class MediaFiles
{
    private static readonly FrozenDictionary<string, MediaKind> Kinds = new Dictionary<string, MediaKind>
    {
        [".wav"] = MediaKind.Audio,
        [".wave"] = MediaKind.Audio,
        [".bwf"] = MediaKind.Audio,
        [".rf64"] = MediaKind.Audio,
        [".w64"] = MediaKind.Audio,
        [".aif"] = MediaKind.Audio,
        [".aiff"] = MediaKind.Audio,
        [".aifc"] = MediaKind.Audio,
        [".flac"] = MediaKind.Audio,
        [".ogg"] = MediaKind.Audio,
        [".oga"] = MediaKind.Audio,
        [".opus"] = MediaKind.Audio,
        [".mp3"] = MediaKind.Audio,
        [".m4a"] = MediaKind.Audio,
        [".wv"] = MediaKind.Audio,
        [".caf"] = MediaKind.Audio,
        [".au"] = MediaKind.Audio,
        [".snd"] = MediaKind.Audio,
        [".aac"] = MediaKind.Audio,
        [".mp2"] = MediaKind.Audio,
        [".mka"] = MediaKind.Audio,
        [".mov"] = MediaKind.Video,
        [".mp4"] = MediaKind.Video,
        [".mkv"] = MediaKind.Video,
        [".m4v"] = MediaKind.Video,
        [".avi"] = MediaKind.Video,
        [".webm"] = MediaKind.Video,
        [".mpg"] = MediaKind.Video,
        [".mpeg"] = MediaKind.Video,
        [".wmv"] = MediaKind.Video,
        [".ogv"] = MediaKind.Video,
        [".mid"] = MediaKind.Midi,
        [".midi"] = MediaKind.Midi,
        [".sfz"] = MediaKind.Instrument,
        [".sf2"] = MediaKind.Instrument,
        [".sf3"] = MediaKind.Instrument,
    }.ToFrozenDictionary(StringComparer.OrdinalIgnoreCase);

    /// <summary>The extensions of media files, each with its dot, in lower case.</summary>
    public static IEnumerable<string> Extensions => Kinds.Keys;

    /// <summary>The kind of a file by its name, or null when it is not a media file.</summary>
    public static MediaKind? KindOf(string path) => Kinds.TryGetValue(Path.GetExtension(path), out var kind) ? kind : null;
}
