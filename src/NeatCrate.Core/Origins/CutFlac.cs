using System.Buffers.Binary;
using System.Text.Json.Serialization;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Origins;

/// <summary>
/// A FLAC file cut to a range of its samples, exactly, and packed again as FLAC. Its metadata blocks come along (RFC 9639,
/// section 8): positions of a cue sheet are moved, and a seek table, which points into the old frames, is left out.
/// </summary>
/// <param name="Start">The first sample that is kept.</param>
/// <param name="Length">How many samples of each channel are kept.</param>
public sealed record CutFlac(long Start, long Length) : FileTransform
{
    private const int BlockFrames = 16 * 1024;
    private const int StreamInfo = 0;
    private const int Padding = 1;
    private const int SeekTable = 3;
    private const int CueSheet = 5;
    private const int StreamInfoBytes = 34;
    private const int CueSheetHeadBytes = 396;
    private const int CueTrackBytes = 36;
    private const int CueIndexBytes = 12;

    // Numbers of the lead-out track (RFC 9639, section 8.7): of a sheet that pictures a disc, and of any other.
    private const byte LeadOutOfDisc = 170;
    private const byte LeadOutOfOther = 255;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Verb => "cut";

    /// <inheritdoc/>
    public override void WriteTo(Stream target, string source, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(target);
        try
        {
            var header = MediaHeaderReader.ReadFile(source) ?? throw new FaultException(FaultCode.SourceUnreadable, source);
            var blocks = Blocks(source, header);
            target.Write("fLaC"u8);
            var infoAt = target.Position;
            Write(target, StreamInfo, new byte[StreamInfoBytes], blocks.Count == 0);
            for (var n = 0; n < blocks.Count; n++)
            {
                Write(target, blocks[n].Type, blocks[n].Body, n == blocks.Count - 1);
            }
            using var encoder = new FlacEncoder(header.SampleRate, header.Channels, header.BitsPerSample, target.Write);
            Pack(source, header, encoder, cancel);
            var info = encoder.Finish();
            // What the encoder learned on the way stands in the first block, which one can come back to.
            target.Position = infoAt;
            Write(target, StreamInfo, info, blocks.Count == 0);
            target.Position = target.Length;
        }
        catch (UnreadableMediaException e)
        {
            throw new FaultException(new Fault(FaultCode.SourceUnreadable) { Path = source, Reasons = [e.Fault] }, e);
        }
    }

    private void Pack(string source, MediaHeader header, FlacEncoder encoder, CancellationToken cancel)
    {
        using var reader = new SndfileReader(source);
        reader.Seek(Start);
        var block = new int[BlockFrames * reader.Channels];
        for (var left = Length; left > 0;)
        {
            cancel.ThrowIfCancellationRequested();
            var read = reader.ReadIntegers(block.AsSpan(0, (int)Math.Min(BlockFrames, left) * reader.Channels));
            if (read <= 0 || reader.Failure is not null)
            {
                throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = source, Count = Start + Length - left, Expected = header.LengthSamples, Detail = reader.Failure });
            }
            encoder.Write(block.AsSpan(0, read * reader.Channels));
            left -= read;
        }
    }

    private List<(int Type, byte[] Body)> Blocks(string source, MediaHeader header)
    {
        using var file = ByteSource.OpenFile(source);
        var blocks = new List<(int, byte[])>();
        var at = Id3Tag.EndOf(file) + 4;
        var head = new byte[4];
        for (var isLast = false; !isLast && at < header.DataOffset && file.TryFill(at, head);)
        {
            isLast = (head[0] & 0x80) != 0;
            var (type, body) = (head[0] & 0x7F, new byte[(head[1] << 16) | (head[2] << 8) | head[3]]);
            if (!file.TryFill(at + 4, body))
            {
                throw new FaultException(FaultCode.SourceTooShort, source);
            }
            at += 4 + body.Length;
            if (type is not (StreamInfo or SeekTable or Padding))
            {
                blocks.Add((type, type == CueSheet ? Moved(body) : body));
            }
        }
        return blocks;
    }

    /// <summary>Tracks that begin in the range, moved along; the lead-out stands at the new end (RFC 9639, section 8.7).</summary>
    private byte[] Moved(byte[] sheet)
    {
        if (sheet.Length < CueSheetHeadBytes)
        {
            return sheet;
        }
        var tracks = new List<byte[]>();
        for (var at = CueSheetHeadBytes; at + CueTrackBytes <= sheet.Length;)
        {
            var bytes = CueTrackBytes + (sheet[at + CueTrackBytes - 1] * CueIndexBytes);
            var track = sheet.AsSpan(at, Math.Min(bytes, sheet.Length - at)).ToArray();
            var offset = BinaryPrimitives.ReadUInt64BigEndian(track);
            var isLeadOut = track[8] is LeadOutOfDisc or LeadOutOfOther;
            if (isLeadOut || (offset >= (ulong)Start && offset < (ulong)(Start + Length)))
            {
                BinaryPrimitives.WriteUInt64BigEndian(track, isLeadOut ? (ulong)Length : offset - (ulong)Start);
                if (isLeadOut)
                {
                    track[8] = LeadOutOfOther;
                }
                tracks.Add(track);
            }
            at += bytes;
        }
        var head = sheet[..CueSheetHeadBytes];
        // What is cut elsewhere than at the frames of a disc is no picture of one any more, and its lead-out has the number of that.
        head[136] &= 0x7F;
        head[^1] = (byte)tracks.Count;
        return [.. head, .. tracks.SelectMany(t => t)];
    }

    private static void Write(Stream target, int type, byte[] body, bool isLast)
    {
        target.Write([(byte)(type | (isLast ? 0x80 : 0)), (byte)(body.Length >> 16), (byte)(body.Length >> 8), (byte)body.Length]);
        target.Write(body);
    }
}
