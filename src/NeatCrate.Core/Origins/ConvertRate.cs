using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Origins;

/// <summary>The sound at another sample rate, as WAV in 32-bit floating point, which neither rounds nor clips.</summary>
/// <param name="SampleRate">The rate that is wanted, in Hz.</param>
public sealed record ConvertRate(int SampleRate) : FileTransform
{
    private const int BlockSamples = 16 * 1024;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "convert";

    /// <inheritdoc/>
    public override void WriteTo(Stream target, string source, CancellationToken cancel)
    {
        MediaHeader header;
        try
        {
            header = MediaHeaderReader.ReadFile(source) ?? throw new FaultException(FaultCode.SourceUnreadable, source);
            using var reader = SoundReader.Open(source, header);
            // Opus counts at 48 kHz whatever it was made from, and is decoded at the rate of that (RFC 7845, sections 4 and 5.1).
            var expected = header.LengthSamples is { } length ? (long)((Int128)length * reader.SampleRate / header.SampleRate) : reader.LengthSamples;
            using var whole = new WholeSound(reader, expected, header.Encoding == SampleEncoding.Encoded && header.Container.StartsWith("MP", StringComparison.Ordinal));
            using var resampler = new Resampler(whole, SampleRate);
            using var writer = new WavWriter(target, new PcmFormat(SampleRate, reader.Channels, 32), Broadcast(header));
            var block = new float[BlockSamples * reader.Channels];
            for (int count; (count = resampler.Read(block)) > 0;)
            {
                cancel.ThrowIfCancellationRequested();
                writer.Write(block.AsSpan(0, count * reader.Channels));
            }
            if (whole.IsCutShort)
            {
                throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = source, Count = whole.Given, Expected = expected, Detail = reader.Failure });
            }
        }
        catch (UnreadableMediaException e)
        {
            throw new FaultException(new Fault(FaultCode.SourceUnreadable) { Path = source, Reasons = [e.Fault] }, e);
        }
    }

    /// <summary>What the file says of itself comes along; its time reference counts samples, so it counts them at the new rate (EBU Tech 3285).</summary>
    private BroadcastExtension? Broadcast(MediaHeader header) => header.Broadcast is { } broadcast
        ? broadcast with { TimeReference = (ulong)UInt128.Min(ulong.MaxValue, (UInt128)broadcast.TimeReference * (ulong)SampleRate / (ulong)header.SampleRate) }
        : null;

    /// <summary>
    /// A sound of exactly the length that its header gives. What a decoder gives beyond that is padding of the encoder; what
    /// it does not give was cut off, or is damaged. MPEG audio has no exact end: two frames may lack.
    /// </summary>
    private sealed class WholeSound(SoundReader reader, long length, bool isMpeg) : SoundReader
    {
        private const int MpegSlack = 2 * 1152;

        public override int SampleRate => reader.SampleRate;

        public override int Channels => reader.Channels;

        public override long LengthSamples => length;

        public long Given { get; private set; }

        public bool IsCutShort => Given < length - (isMpeg ? MpegSlack : 0) || reader.Failure is not null;

        public override void Seek(long sample) => throw new NotSupportedException();

        public override int Read(Span<float> interleaved)
        {
            var wanted = (int)Math.Min(interleaved.Length / Channels, length - Given);
            var read = wanted == 0 ? 0 : reader.Read(interleaved[..(wanted * Channels)]);
            Given += read;
            return read;
        }
    }
}
