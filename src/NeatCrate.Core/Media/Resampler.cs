using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>
/// Turns sound at one sample rate into sound at another through libsamplerate, with the best of its converters: band-limited
/// interpolation, 97 % of the bandwidth, noise at -145 dB (the library's own figures). The result is as long as the
/// original to the sample: length × new rate / old rate, rounded up.
/// </summary>
internal sealed partial class Resampler : IDisposable
{
    private const string Library = "libsamplerate.so.0";
    private const int BestConverter = 0;
    private const int BlockSamples = 8 * 1024;

    private readonly SoundReader _source;
    private readonly double _ratio;
    private readonly float[] _input;
    private nint _state;
    private int _held;
    private int _heldFrom;
    private bool _isAtEnd;
    private long _given;

    /// <summary>SRC_DATA of libsamplerate; long is 64 bits on the systems that this runs on.</summary>
    [StructLayout(LayoutKind.Sequential)]
    private unsafe struct Data
    {
        public float* Input;
        public float* Output;
        public long InputFrames;
        public long OutputFrames;
        public long InputFramesUsed;
        public long OutputFramesMade;
        public int EndOfInput;
        public double Ratio;
    }

    /// <summary>Starts to convert a sound.</summary>
    /// <param name="source">The sound; left open.</param>
    /// <param name="sampleRate">The rate that is wanted, in Hz.</param>
    /// <exception cref="UnreadableMediaException">The rates cannot be converted, or libsamplerate is not there.</exception>
    public Resampler(SoundReader source, int sampleRate)
    {
        _source = source;
        _ratio = sampleRate / (double)source.SampleRate;
        LengthSamples = LengthAt(source.LengthSamples, source.SampleRate, sampleRate);
        _input = new float[BlockSamples * source.Channels];
        try
        {
            if (IsRatioValid(_ratio) == 0)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.RateNotConvertible) { Count = source.SampleRate, Expected = sampleRate });
            }
            _state = New(BestConverter, source.Channels, out var error);
            if (_state == 0)
            {
                throw new UnreadableMediaException(new Fault(FaultCode.SoundNotConverted) { Detail = Marshal.PtrToStringUTF8(ErrorText(error)) });
            }
        }
        catch (DllNotFoundException e)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.LibraryMissing) { Name = "libsamplerate", Other = "libsamplerate0" }, e);
        }
    }

    /// <summary>Length of the result in samples per channel.</summary>
    public long LengthSamples { get; }

    /// <summary>How long a sound is at another rate, in samples: the first whole number that leaves no part of it out.</summary>
    public static long LengthAt(long samples, int rate, int newRate) => (long)(((Int128)samples * newRate + rate - 1) / rate);

    /// <summary>Reads converted samples, interleaved; fewer only at the end.</summary>
    /// <returns>Samples per channel that were read.</returns>
    /// <exception cref="IOException">The source cannot be read on.</exception>
    public unsafe int Read(Span<float> interleaved)
    {
        var channels = _source.Channels;
        var wanted = (int)Math.Min(interleaved.Length / channels, LengthSamples - _given);
        var done = 0;
        while (done < wanted)
        {
            if (_held == 0 && !_isAtEnd)
            {
                (_held, _heldFrom) = (_source.Read(_input), 0);
                _isAtEnd = _held == 0;
            }
            int made;
            fixed (float* from = _input)
            fixed (float* to = interleaved)
            {
                var data = new Data
                {
                    Input = from + (_heldFrom * channels),
                    Output = to + (done * channels),
                    InputFrames = _held,
                    OutputFrames = wanted - done,
                    EndOfInput = _isAtEnd ? 1 : 0,
                    Ratio = _ratio,
                };
                var error = Process(_state, ref data);
                if (error != 0)
                {
                    throw new UnreadableMediaException(new Fault(FaultCode.SoundNotConverted) { Detail = Marshal.PtrToStringUTF8(ErrorText(error)) });
                }
                made = (int)data.OutputFramesMade;
                _held -= (int)data.InputFramesUsed;
                _heldFrom += (int)data.InputFramesUsed;
            }
            done += made;
            if (made == 0 && _isAtEnd)
            {
                // The last part of a sample that the converter leaves out is silence.
                interleaved[(done * channels)..(wanted * channels)].Clear();
                done = wanted;
            }
        }
        _given += done;
        return done;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        if (_state != 0)
        {
            Delete(_state);
            _state = 0;
        }
    }

    [LibraryImport(Library, EntryPoint = "src_new")]
    private static partial nint New(int converter, int channels, out int error);

    [LibraryImport(Library, EntryPoint = "src_process")]
    private static partial int Process(nint state, ref Data data);

    [LibraryImport(Library, EntryPoint = "src_delete")]
    private static partial nint Delete(nint state);

    [LibraryImport(Library, EntryPoint = "src_is_valid_ratio")]
    private static partial int IsRatioValid(double ratio);

    [LibraryImport(Library, EntryPoint = "src_strerror")]
    private static partial nint ErrorText(int error);
}
