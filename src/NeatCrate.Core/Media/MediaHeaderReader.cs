namespace NeatCrate.Core.Media;

/// <summary>Reads the header of an audio file of any kind that we know, whatever its name says.</summary>
public static class MediaHeaderReader
{
    private const int HeadBytes = 12;

    /// <summary>Reads the header of a file; null when it is of a kind that is known by name and size only.</summary>
    /// <exception cref="UnreadableMediaException">It is of a kind that we know, and damaged, or not what its name says.</exception>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    public static MediaHeader? ReadFile(string path)
    {
        using var source = ByteSource.OpenFile(path);
        return Read(source, Path.GetExtension(path));
    }

    /// <summary>Reads the header of a source.</summary>
    /// <param name="source">The source.</param>
    /// <param name="extension">Extension of its name, with the dot; it decides only where the bytes do not tell.</param>
    /// <exception cref="UnreadableMediaException">It is of a kind that we know, and damaged, or not what its name says.</exception>
    public static MediaHeader? Read(ByteSource source, string extension)
    {
        ArgumentNullException.ThrowIfNull(source);
        ArgumentNullException.ThrowIfNull(extension);
        if (source.Length == 0 && MediaFiles.KindOf(extension) == MediaKind.Audio)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.MediaEmpty));
        }
        Span<byte> head = stackalloc byte[HeadBytes];
        var bytes = head[..source.Read(0, head)];
        // A tag of ID3 may stand before FLAC as well as before MPEG audio.
        var start = Id3Tag.EndOf(source);
        Span<byte> sound = stackalloc byte[4];
        var afterTag = start > 0 ? sound[..source.Read(start, sound)] : bytes;
        if (WavHeaderReader.Recognises(bytes))
        {
            return WavHeaderReader.Read(source);
        }
        if (AiffHeaderReader.Recognises(bytes))
        {
            return AiffHeaderReader.Read(source);
        }
        if (FlacHeaderReader.Recognises(afterTag))
        {
            return FlacHeaderReader.Read(source);
        }
        if (OggHeaderReader.Recognises(bytes))
        {
            return OggHeaderReader.Read(source);
        }
        if (CafHeaderReader.Recognises(bytes))
        {
            return CafHeaderReader.Read(source);
        }
        return extension.ToUpperInvariant() switch
        {
            ".WAV" or ".WAVE" or ".BWF" or ".RF64" => WavHeaderReader.Read(source),
            ".AIF" or ".AIFF" or ".AIFC" => AiffHeaderReader.Read(source),
            ".FLAC" => FlacHeaderReader.Read(source),
            ".OGG" or ".OGA" or ".OPUS" => OggHeaderReader.Read(source),
            ".CAF" => CafHeaderReader.Read(source),
            ".AAC" => AdtsHeaderReader.Read(source),
            ".MP3" or ".MP2" => Mp3HeaderReader.Read(source),
            _ => Mp3HeaderReader.Recognises(bytes) && start > 0 ? Mp3HeaderReader.Read(source) : null,
        };
    }
}
