using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Origins;

/// <summary>
/// The files that a printed track is read from: a few of them open at a time, each held to what the plan saw of it until it is closed.
/// One of another rate is converted whole, one at a time, and read from there.
/// </summary>
internal sealed class PrintSources(PcmFormat format, IByteSink sink, OriginReading reading) : IDisposable
{
    private const int MostOpen = 8;

    // MPEG audio has no exact end: two frames may lack.
    private const int MpegSlack = 2 * 1152;

    private readonly List<OpenSource> _open = [];

    private sealed record OpenSource(WholeFile Whole, SourceFile File, SoundReader Sound, MediaHeader Header, string? Converted, int Slack)
    {
        public long At { get; set; }

        public float[] Narrow { get; set; } = [];
    }

    /// <summary>Reads what a piece plays from a sample of the timeline on, on all channels of the print.</summary>
    /// <exception cref="FaultException">The file is not what the plan saw, or ends before it should.</exception>
    public void Read(PrintedPiece piece, long at, Span<float> samples)
    {
        var source = Open(piece.Source);
        var (wanted, count) = (piece.SourceStart + at - piece.At, samples.Length / format.Channels);
        if (source.At != wanted)
        {
            source.Sound.Seek(wanted);
        }
        var read = source.Sound.Channels == format.Channels ? source.Sound.Read(samples) : ReadMono(source, samples, count);
        source.At = wanted + read;
        if (count - read is > 0 and var lacks && lacks <= source.Slack)
        {
            samples[(read * format.Channels)..].Clear();
            read = count;
        }
        if (read < count || source.Sound.Failure is not null)
        {
            throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = piece.Source.Path, Count = wanted + read, Expected = source.Sound.LengthSamples, Detail = source.Sound.Failure });
        }
    }

    /// <summary>Reads the bytes of what a piece plays, where they stand in the file as they are to stand in the print.</summary>
    /// <returns>False where they stand there otherwise, and nothing was read.</returns>
    /// <exception cref="FaultException">The file is not what the plan saw, or ends before it should.</exception>
    public bool TryReadAsItIs(PrintedPiece piece, long at, Span<byte> bytes)
    {
        var source = Open(piece.Source);
        var header = source.Header;
        var encoding = format.BitsPerSample == 32 ? SampleEncoding.FloatingPoint : SampleEncoding.SignedInteger;
        if (source.Converted is not null || header.BigEndian || header.Encoding != encoding || header.BitsPerSample != format.BitsPerSample || header.FrameBytes != format.FrameBytes || header.Channels != format.Channels)
        {
            return false;
        }
        var first = piece.SourceStart + at - piece.At;
        if ((first * header.FrameBytes) + bytes.Length > header.DataBytes)
        {
            throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = piece.Source.Path, Count = header.DataBytes / header.FrameBytes, Expected = header.LengthSamples });
        }
        for (var (done, offset) = (0, header.DataOffset + (first * header.FrameBytes)); done < bytes.Length;)
        {
            done += source.File.ReadSource(piece.Source.Path, bytes[done..], offset + done);
        }
        return true;
    }

    /// <summary>Closes all files, each of which has to be what it was to the end: what changed meanwhile is a mixture that never was.</summary>
    public void Close()
    {
        while (_open.Count > 0)
        {
            Close(_open[^1]);
        }
    }

    private int ReadMono(OpenSource source, Span<float> samples, int count)
    {
        if (source.Narrow.Length < count)
        {
            source.Narrow = new float[count];
        }
        var read = source.Sound.Read(source.Narrow.AsSpan(0, count));
        for (var n = 0; n < read; n++)
        {
            samples.Slice(n * format.Channels, format.Channels).Fill(source.Narrow[n]);
        }
        return read;
    }

    private OpenSource Open(WholeFile whole)
    {
        var at = _open.FindIndex(o => o.Whole == whole);
        if (at >= 0)
        {
            var known = _open[at];
            // The one that was used last stands last.
            _open.RemoveAt(at);
            _open.Add(known);
            return known;
        }
        if (_open.Count >= MostOpen)
        {
            Close(_open[0]);
        }
        var file = reading.Files.OpenAsPlanned(whole.Path, whole.Expected);
        try
        {
            var header = MediaHeaderReader.ReadFile(whole.Path) ?? throw new FaultException(FaultCode.SourceUnreadable, whole.Path);
            var converted = header.SampleRate == format.SampleRate ? null : Converted(whole);
            var sound = converted is null ? SoundReader.Open(whole.Path, header) : SoundReader.Open(converted, MediaHeaderReader.ReadFile(converted)!);
            if (sound.SampleRate != format.SampleRate || (sound.Channels != format.Channels && sound.Channels != 1))
            {
                sound.Dispose();
                throw new FaultException(FaultCode.SourceChanged, whole.Path);
            }
            var opened = new OpenSource(whole, file, sound, header, converted, header.Encoding == SampleEncoding.Encoded && header.Container.StartsWith("MP", StringComparison.Ordinal) ? MpegSlack : 0);
            _open.Add(opened);
            return opened;
        }
        catch (UnreadableMediaException e)
        {
            file.Dispose();
            throw new FaultException(new Fault(FaultCode.SourceUnreadable) { Path = whole.Path, Reasons = [e.Fault] }, e);
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    private string Converted(WholeFile whole)
    {
        if (_open.Find(o => o.Converted is not null) is { } other)
        {
            Close(other);
        }
        var path = sink.Scratch(ScratchUse.Source);
        using var made = new ScratchFile(path, reading.Files);
        new ConvertRate(format.SampleRate).WriteTo(made, whole.Path, reading.Cancel);
        return path;
    }

    private void Close(OpenSource source)
    {
        _open.Remove(source);
        using (source.File)
        {
            source.Sound.Dispose();
            if (source.Converted is not null)
            {
                reading.Files.Remove(source.Converted);
            }
            source.File.RequireUnchanged(source.Whole.Path, source.Whole.Expected);
        }
    }

    /// <summary>Lets go of what is still open after a failure; a scratch file is the step's to take away then.</summary>
    public void Dispose()
    {
        foreach (var source in _open)
        {
            source.Sound.Dispose();
            source.File.Dispose();
        }
        _open.Clear();
    }
}
