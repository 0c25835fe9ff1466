using System.Buffers.Binary;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Origins;

/// <summary>Writes the samples of a printed track, in order. Memory: two blocks, whatever the length.</summary>
internal sealed class TrackPrinting : IDisposable
{
    private const int BlockSamples = 16 * 1024;

    private readonly PrintedTrack _track;
    private readonly IByteSink _sink;
    private readonly OriginReading _reading;
    private readonly PrintSources _sources;
    private readonly float[] _one;
    private readonly double[] _sum;
    private readonly byte[] _bytes;

    public TrackPrinting(PrintedTrack track, IByteSink sink, OriginReading reading)
    {
        (_track, _sink, _reading) = (track, sink, reading);
        var samples = BlockSamples * track.Format.Channels;
        (_one, _sum, _bytes) = (new float[samples], new double[samples], new byte[samples * track.Format.BitsPerSample / 8]);
        _sources = new PrintSources(track.Format, sink, reading);
    }

    /// <summary>
    /// The timeline is gone through from edge to edge: between two of them the same pieces play, each faded throughout or not at all.
    /// So a sample is only reckoned with where a fade or another piece lies on it.
    /// </summary>
    public void Run()
    {
        var pieces = _track.Pieces;
        var edges = pieces.SelectMany(p => p.Fades.SelectMany(f => new[] { f.Start, f.End }).Append(p.At).Append(p.End))
            .Where(e => e > 0 && e < _track.LengthSamples).Append(_track.LengthSamples).Distinct().Order();
        var (at, next, playing) = (0L, 0, new List<PrintedPiece>());
        foreach (var edge in edges)
        {
            playing.RemoveAll(p => p.End <= at);
            for (; next < pieces.Length && pieces[next].At <= at; next++)
            {
                if (pieces[next].End > at)
                {
                    playing.Add(pieces[next]);
                }
            }
            Write(playing, at, edge);
            at = edge;
        }
        _sources.Close();
    }

    private void Write(List<PrintedPiece> playing, long from, long to)
    {
        var faded = playing.Any(p => p.Fades.Any(f => f.Start < to && f.End > from));
        for (var at = from; at < to;)
        {
            _reading.Cancel.ThrowIfCancellationRequested();
            var count = (int)Math.Min(BlockSamples, to - at);
            var samples = count * _track.Format.Channels;
            var bytes = _bytes.AsSpan(0, samples * _track.Format.BitsPerSample / 8);
            if (playing.Count == 0)
            {
                bytes.Clear();
            }
            else if (playing.Count == 1 && !faded)
            {
                if (!_sources.TryReadAsItIs(playing[0], at, bytes))
                {
                    _sources.Read(playing[0], at, _one.AsSpan(0, samples));
                    Pack(_one.AsSpan(0, samples));
                }
            }
            else
            {
                Add(playing, at, samples);
                Pack(_sum.AsSpan(0, samples));
            }
            _sink.Write(bytes);
            at += count;
        }
    }

    private void Add(List<PrintedPiece> playing, long at, int samples)
    {
        var channels = _track.Format.Channels;
        var sum = _sum.AsSpan(0, samples);
        var one = _one.AsSpan(0, samples);
        sum.Clear();
        foreach (var piece in playing)
        {
            _sources.Read(piece, at, one);
            for (var n = 0; n < samples; n += channels)
            {
                var gain = 1.0;
                foreach (var fade in piece.Fades)
                {
                    gain *= fade.GainAt(at + (n / channels), _track.Law);
                }
                for (var c = n; c < n + channels; c++)
                {
                    sum[c] += gain * one[c];
                }
            }
        }
    }

    // Integers of n bits were read as multiples of 2^(1-n), so that they come back as they were.
    private void Pack(ReadOnlySpan<float> samples)
    {
        switch (_track.Format.BitsPerSample)
        {
            case 16:
                for (var n = 0; n < samples.Length; n++)
                {
                    BinaryPrimitives.WriteInt16LittleEndian(_bytes.AsSpan(2 * n), (short)Math.Clamp(MathF.Round(samples[n] * 32_768f), short.MinValue, short.MaxValue));
                }
                break;
            case 24:
                for (var n = 0; n < samples.Length; n++)
                {
                    Pack24((int)Math.Clamp(MathF.Round(samples[n] * 8_388_608f), -8_388_608f, 8_388_607f), 3 * n);
                }
                break;
            default:
                for (var n = 0; n < samples.Length; n++)
                {
                    BinaryPrimitives.WriteSingleLittleEndian(_bytes.AsSpan(4 * n), samples[n]);
                }
                break;
        }
    }

    private void Pack(ReadOnlySpan<double> samples)
    {
        switch (_track.Format.BitsPerSample)
        {
            case 16:
                for (var n = 0; n < samples.Length; n++)
                {
                    BinaryPrimitives.WriteInt16LittleEndian(_bytes.AsSpan(2 * n), (short)Math.Clamp(Math.Round(samples[n] * 32_768.0), short.MinValue, short.MaxValue));
                }
                break;
            case 24:
                for (var n = 0; n < samples.Length; n++)
                {
                    Pack24((int)Math.Clamp(Math.Round(samples[n] * 8_388_608.0), -8_388_608.0, 8_388_607.0), 3 * n);
                }
                break;
            default:
                for (var n = 0; n < samples.Length; n++)
                {
                    BinaryPrimitives.WriteSingleLittleEndian(_bytes.AsSpan(4 * n), (float)samples[n]);
                }
                break;
        }
    }

    private void Pack24(int value, int at)
    {
        _bytes[at] = (byte)value;
        _bytes[at + 1] = (byte)(value >> 8);
        _bytes[at + 2] = (byte)(value >> 16);
    }

    public void Dispose() => _sources.Dispose();
}
