using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Media;

/// <summary>
/// Packs a WAV or AIFF file as FLAC with all that it holds beside its samples, and brings it back bit for bit. What it makes is what the
/// reference tool makes with --keep-foreign-metadata, and is brought back by that as well.
/// </summary>
public static class FlacPacker
{
    private const int BlockFrames = 16 * 1024;
    private const int StreamInfoBytes = 34;
    private const int ApplicationBlock = 2;
    private const int MostBlocks = 1024;
    private const int LastBlock = 0x80;

    /// <summary>Packs a file.</summary>
    /// <param name="file">The file.</param>
    /// <param name="path">Absolute path of it, for whoever is told.</param>
    /// <param name="shell">What of it is not samples.</param>
    /// <param name="target">Gets the FLAC file; one can go back in it to what was written.</param>
    /// <param name="passed">Gets the bytes of the file itself, in order, as they are packed.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="FaultException">It ends before it should.</exception>
    public static void Pack(ByteSource file, string path, SoundShell shell, Stream target, Action<ReadOnlySpan<byte>> passed, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(shell);
        ArgumentNullException.ThrowIfNull(target);
        ArgumentNullException.ThrowIfNull(passed);
        var pieces = shell.Pieces.Select(p => Filled(file, path, p.Offset, new byte[p.Bytes])).ToList();
        target.Write("fLaC"u8);
        var infoAt = target.Position;
        Block(target, 0, new byte[StreamInfoBytes], false);
        for (var n = 0; n < pieces.Count; n++)
        {
            Block(target, ApplicationBlock, [.. System.Text.Encoding.ASCII.GetBytes(shell.Application), .. pieces[n]], n == pieces.Count - 1);
        }
        pieces.Take(shell.DataPiece + 1).ToList().ForEach(p => passed(p));
        using var encoder = new FlacEncoder(shell.Integers.SampleRate, shell.Integers.Channels, shell.Integers.Bits, target.Write);
        var (stored, samples) = (new byte[BlockFrames * shell.Integers.FrameBytes], new int[BlockFrames * shell.Integers.Channels]);
        for (var done = 0L; done < shell.DataBytes;)
        {
            cancel.ThrowIfCancellationRequested();
            var block = stored.AsSpan(0, (int)Math.Min(stored.Length, shell.DataBytes - done));
            if (!file.TryFill(shell.DataOffset + done, block))
            {
                throw new FaultException(FaultCode.SourceTooShort, path);
            }
            passed(block);
            var read = samples.AsSpan(0, block.Length / shell.Integers.FrameBytes * shell.Integers.Channels);
            shell.Integers.Read(block, read);
            encoder.Write(read);
            done += block.Length;
        }
        Pad(shell.DataBytes, passed);
        pieces.Skip(shell.DataPiece + 1).ToList().ForEach(p => passed(p));
        var info = encoder.Finish();
        // What the encoder learned on the way stands in the first block, which one can come back to.
        target.Position = infoAt;
        Block(target, 0, info, false);
        target.Position = target.Length;
    }

    /// <summary>Brings the packed file back.</summary>
    /// <param name="path">Absolute path of the FLAC file.</param>
    /// <param name="to">Gets the bytes in order.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="FaultException">It is damaged, or holds no packed file.</exception>
    public static void Restore(string path, Action<ReadOnlySpan<byte>> to, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(to);
        var (application, pieces) = Pieces(path);
        var data = pieces.FindIndex(p => p.AsSpan().StartsWith(application == "aiff" ? "SSND"u8 : "data"u8));
        var header = MediaHeaderReader.ReadFile(path);
        if (data < 1 || header is not { Container: "FLAC", LengthSamples: { } length })
        {
            throw new FaultException(FaultCode.SourceUnreadable, path);
        }
        var integers = new StoredIntegers(header.SampleRate, header.Channels, header.BitsPerSample, application == "aiff", application == "riff" && header.BitsPerSample == 8);
        pieces.Take(data + 1).ToList().ForEach(p => to(p));
        using (var reader = new SndfileReader(path))
        {
            var (stored, samples) = (new byte[BlockFrames * integers.FrameBytes], new int[BlockFrames * integers.Channels]);
            for (var left = length; left > 0;)
            {
                cancel.ThrowIfCancellationRequested();
                var read = reader.ReadIntegers(samples.AsSpan(0, (int)Math.Min(BlockFrames, left) * integers.Channels));
                if (read <= 0 || reader.Failure is not null)
                {
                    throw new FaultException(new Fault(FaultCode.SoundCutShort) { Path = path, Count = length - left, Expected = length, Detail = reader.Failure });
                }
                var block = stored.AsSpan(0, read * integers.FrameBytes);
                integers.Write(samples.AsSpan(0, read * integers.Channels), block);
                to(block);
                left -= read;
            }
        }
        Pad(length * integers.FrameBytes, to);
        pieces.Skip(data + 1).ToList().ForEach(p => to(p));
    }

    private static (string Application, List<byte[]> Pieces) Pieces(string path)
    {
        using var file = ByteSource.OpenFile(path);
        var (pieces, application, head, at) = (new List<byte[]>(), "", new byte[8], 4L);
        for (var (n, isLast) = (0, false); n < MostBlocks && !isLast && file.TryFill(at, head.AsSpan(0, 4)); n++)
        {
            isLast = (head[0] & LastBlock) != 0;
            var (type, bytes) = (head[0] & ~LastBlock, (head[1] << 16) | (head[2] << 8) | head[3]);
            if (type == ApplicationBlock && bytes > 4 && file.TryFill(at, head) && head.AsSpan(4) is var id && (id.SequenceEqual("riff"u8) || id.SequenceEqual("aiff"u8)))
            {
                application = System.Text.Encoding.ASCII.GetString(id);
                var piece = new byte[bytes - 4];
                if (!file.TryFill(at + 8, piece))
                {
                    throw new FaultException(FaultCode.SourceTooShort, path);
                }
                pieces.Add(piece);
            }
            at += 4 + bytes;
        }
        return (application, pieces);
    }

    private static byte[] Filled(ByteSource file, string path, long offset, byte[] bytes) => file.TryFill(offset, bytes) ? bytes : throw new FaultException(FaultCode.SourceTooShort, path);

    private static void Pad(long bytes, Action<ReadOnlySpan<byte>> to)
    {
        if ((bytes & 1) == 1)
        {
            to([0]);
        }
    }

    private static void Block(Stream target, int type, byte[] body, bool isLast)
    {
        target.Write([(byte)(type | (isLast ? LastBlock : 0)), (byte)(body.Length >> 16), (byte)(body.Length >> 8), (byte)body.Length]);
        target.Write(body);
    }
}
