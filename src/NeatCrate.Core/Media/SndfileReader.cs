using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>Decodes compressed sound through libsndfile: FLAC, Ogg Vorbis, Opus, MP3, and encoded WAV and AIFF.</summary>
internal sealed partial class SndfileReader : SoundReader
{
    private const string Library = "libsndfile.so.1";
    private const int ReadMode = 0x10;
    private const int FromStart = 0;
    private const int CloseWithFile = 1;

    private readonly SndfileInfo _info;
    private nint _file;
    private string? _failure;

    /// <exception cref="UnreadableMediaException">libsndfile cannot decode the file, or is not there.</exception>
    public SndfileReader(string path)
    {
        // Opened by us, so that a pipe in the file's place does not make anybody wait; the library closes it.
        using var handle = ReadableFile.Open(path);
        try
        {
            var descriptor = SystemCalls.Duplicate((int)handle.DangerousGetHandle());
            _file = Open(descriptor, ReadMode, ref _info, CloseWithFile);
            if (_file == 0 || _info.Channels < 1)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.SoundNotDecoded) { Detail = Marshal.PtrToStringUTF8(Error(_file)) });
            }
        }
        catch (DllNotFoundException e)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.LibraryMissing) { Name = "libsndfile", Other = "libsndfile1" }, e);
        }
    }

    public override int SampleRate => _info.SampleRate;

    public override int Channels => _info.Channels;

    public override long LengthSamples => _info.Frames;

    public override void Seek(long sample)
    {
        if (Seek(_file, Math.Clamp(sample, 0, LengthSamples), FromStart) < 0)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.SoundNotDecoded) { Detail = Marshal.PtrToStringUTF8(Error(_file)) });
        }
    }

    public override string? Failure => _failure;

    public override int Read(Span<float> interleaved)
    {
        var read = (int)Math.Max(0, ReadFloat(_file, interleaved, interleaved.Length / Channels));
        if (read < interleaved.Length / Channels && ErrorOf(_file) != 0)
        {
            // What comes after damage is silence to the library, and must not pass for the sound.
            _failure = Marshal.PtrToStringUTF8(Error(_file));
        }
        return read;
    }

    /// <summary>Reads interleaved samples as integers of 32 bits, the highest used first; fewer only at the end. Exact for formats of integers.</summary>
    /// <returns>Samples per channel that were read.</returns>
    public int ReadIntegers(Span<int> interleaved)
    {
        var read = (int)Math.Max(0, ReadInteger(_file, interleaved, interleaved.Length / Channels));
        if (read < interleaved.Length / Channels && ErrorOf(_file) != 0)
        {
            _failure = Marshal.PtrToStringUTF8(Error(_file));
        }
        return read;
    }

    protected override void Dispose(bool disposing)
    {
        if (Interlocked.Exchange(ref _file, 0) is var file and not 0)
        {
            _ = Close(file);
        }
        base.Dispose(disposing);
    }

    [LibraryImport(Library, EntryPoint = "sf_open_fd")]
    private static partial nint Open(int descriptor, int mode, ref SndfileInfo info, int closeWithFile);

    [LibraryImport(Library, EntryPoint = "sf_error")]
    private static partial int ErrorOf(nint file);

    [LibraryImport(Library, EntryPoint = "sf_close")]
    private static partial int Close(nint file);

    [LibraryImport(Library, EntryPoint = "sf_seek")]
    private static partial long Seek(nint file, long frames, int whence);

    [LibraryImport(Library, EntryPoint = "sf_readf_float")]
    private static partial long ReadFloat(nint file, Span<float> samples, long frames);

    [LibraryImport(Library, EntryPoint = "sf_readf_int")]
    private static partial long ReadInteger(nint file, Span<int> samples, long frames);

    [LibraryImport(Library, EntryPoint = "sf_strerror")]
    private static partial nint Error(nint file);
}
