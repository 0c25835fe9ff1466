using System.Runtime.InteropServices;

namespace NeatCrate.Core.Media;

/// <summary>
/// Turns sound at one sample rate into sound at another through libsoxr: linear phase, 28 bits of precision, 97 % of the
/// bandwidth passed and nothing above it (the library's own terms). The result is as long as the original to the sample:
/// length × new rate / old rate, rounded up.
/// </summary>
internal sealed partial class Resampler : IDisposable
{
    private const string Library = "libsoxr.so.0";
    private const int BlockSamples = 8 * 1024;
    private const int MostBlockFloats = 1024 * 1024;

    // Further apart no two rates of recordings are.
    private const int MostRatio = 256;

    private readonly SoundReader _source;
    private readonly float[] _input;
    private nint _state;
    private int _held;
    private int _heldFrom;
    private bool _isAtEnd;
    private long _given;

    /// <summary>soxr_quality_spec_t of soxr.h; long is 64 bits on the systems that this runs on.</summary>
    [StructLayout(LayoutKind.Sequential)]
    private struct Quality
    {
        public double PrecisionBits;
        public double PhaseResponse;
        public double PassbandEnd;
        public double StopbandBegin;
        public nint Unused;
        public ulong Flags;

        /// <summary>The best that the library has: SOXR_VHQ with a steeper filter, without roll-off (2), in double precision (16).</summary>
        public static Quality Best { get; } = new() { PrecisionBits = 28, PhaseResponse = 50, PassbandEnd = 0.97, StopbandBegin = 1, Flags = 2 | 16 };
    }

    /// <summary>Starts to convert a sound.</summary>
    /// <param name="source">The sound; left open.</param>
    /// <param name="sampleRate">The rate that is wanted, in Hz.</param>
    /// <exception cref="UnreadableMediaException">The rates cannot be converted, or libsoxr is not there.</exception>
    public Resampler(SoundReader source, int sampleRate)
    {
        _source = source;
        LengthSamples = LengthAt(source.LengthSamples, source.SampleRate, sampleRate);
        // Memory does not grow with the number of channels.
        _input = new float[Math.Max(1, Math.Min(BlockSamples, MostBlockFloats / source.Channels)) * source.Channels];
        if (Math.Max(sampleRate, source.SampleRate) > MostRatio * (long)Math.Min(sampleRate, source.SampleRate))
        {
            throw new UnreadableMediaException(new Fault(FaultCode.RateNotConvertible) { Count = source.SampleRate, Expected = sampleRate });
        }
        try
        {
            var quality = Quality.Best;
            _state = New(source.SampleRate, sampleRate, (uint)source.Channels, out var error, 0, ref quality, 0);
            if (_state == 0)
            {
                throw Failure(error);
            }
        }
        catch (DllNotFoundException e)
        {
            throw new UnreadableMediaException(new Fault(FaultCode.LibraryMissing) { Name = "libsoxr", Other = "libsoxr0" }, e);
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
            nuint used, made;
            fixed (float* from = _input)
            fixed (float* to = interleaved)
            {
                // Nothing where the input would be says that it is at its end.
                var error = Process(_state, _isAtEnd ? null : from + (_heldFrom * channels), (nuint)_held, out used, to + (done * channels), (nuint)(wanted - done), out made);
                if (error != 0)
                {
                    throw Failure(error);
                }
            }
            (_held, _heldFrom) = (_held - (int)used, _heldFrom + (int)used);
            done += (int)made;
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

    private static UnreadableMediaException Failure(nint error) => new(new Fault(FaultCode.SoundNotConverted) { Detail = Marshal.PtrToStringUTF8(error) });

    [LibraryImport(Library, EntryPoint = "soxr_create")]
    private static partial nint New(double inputRate, double outputRate, uint channels, out nint error, nint inputAndOutput, ref Quality quality, nint runtime);

    [LibraryImport(Library, EntryPoint = "soxr_process")]
    private static unsafe partial nint Process(nint state, float* input, nuint inputFrames, out nuint inputFramesUsed, float* output, nuint outputFrames, out nuint outputFramesMade);

    [LibraryImport(Library, EntryPoint = "soxr_delete")]
    private static partial void Delete(nint state);
}
