using System.Collections.Concurrent;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Bundles;

/// <summary>
/// How large sound files get once they are packed without loss, before they are: some blocks of each, spread over all of it, are packed and thrown
/// away. What was found stays known for as long as the file is what it was. For any number of threads at once.
/// </summary>
public sealed class PackedSizes
{
    // The encoder packs so many frames by themselves, knowing nothing of the others.
    private const int BlockFrames = 4096;

    // All of a file of less than a minute is looked at, one block in four of one of up to six or so, and of longer ones fewer, spread as widely.
    private const int MostBlocks = 1024;
    private const int Few = 512;
    private const int OneIn = 4;
    private const int MostKnown = 200_000;

    // Marker and first block, four bytes before each other one, four of its name.
    private const int HeadBytes = 42;
    private const int BytesPerPiece = 8;

    private readonly ConcurrentDictionary<string, (FileState State, long? Bytes)> _known = new(StringComparer.Ordinal);

    /// <summary>About how large a file gets.</summary>
    /// <param name="file">The file as it was seen.</param>
    /// <returns>Null for one that is not packed, since it would not come back bit for bit, or cannot be read.</returns>
    public long? Of(WholeFile file)
    {
        ArgumentNullException.ThrowIfNull(file);
        if (_known.TryGetValue(file.Path, out var known) && known.State == file.Expected)
        {
            return known.Bytes;
        }
        long? bytes;
        try
        {
            bytes = Look(file.Path);
        }
        catch (Exception e) when (FaultException.Of(e, file.Path) is not null)
        {
            // A drive may give it again in a moment: nothing is remembered of it.
            return null;
        }
        if (_known.Count >= MostKnown)
        {
            _known.Clear();
        }
        _known[file.Path] = (file.Expected, bytes);
        return bytes;
    }

    /// <summary>Looks at many, on all processors.</summary>
    public void Learn(IEnumerable<WholeFile> files, CancellationToken cancel) =>
        Parallel.ForEach(files, new ParallelOptions { CancellationToken = cancel, MaxDegreeOfParallelism = Environment.ProcessorCount }, file => Of(file));

    private static long? Look(string path)
    {
        try
        {
            using var source = ByteSource.OpenFile(path);
            return MediaHeaderReader.Read(source, Path.GetExtension(path)) is { } header && SoundShell.Of(source, header) is { } shell
                ? HeadBytes + shell.Pieces.Sum(p => (long)BytesPerPiece + p.Bytes) + Frames(source, shell)
                : null;
        }
        catch (UnreadableMediaException)
        {
            return null;
        }
    }

    private static long Frames(ByteSource source, SoundShell shell)
    {
        var (frames, packed, looked) = (shell.DataBytes / shell.Integers.FrameBytes, 0L, 0L);
        if (frames == 0)
        {
            return 0;
        }
        var blocks = (frames + BlockFrames - 1) / BlockFrames;
        var wanted = blocks <= Few ? blocks : Math.Clamp(blocks / OneIn, Few, MostBlocks);
        var (stored, samples) = (new byte[BlockFrames * shell.Integers.FrameBytes], new int[BlockFrames * shell.Integers.Channels]);
        using (var encoder = new FlacEncoder(shell.Integers.SampleRate, shell.Integers.Channels, shell.Integers.Bits, b => packed += b.Length))
        {
            for (var n = 0L; n < wanted; n++)
            {
                // The one in the middle of its stretch: sounds die away, and the first would be too loud for all that come after it.
                var first = ((2 * n) + 1) * blocks / (2 * wanted) * BlockFrames;
                var count = (int)Math.Min(BlockFrames, frames - first);
                var block = stored.AsSpan(0, count * shell.Integers.FrameBytes);
                if (!source.TryFill(shell.DataOffset + (first * shell.Integers.FrameBytes), block))
                {
                    break;
                }
                shell.Integers.Read(block, samples.AsSpan(0, count * shell.Integers.Channels));
                encoder.Write(samples.AsSpan(0, count * shell.Integers.Channels));
                looked += count;
            }
            encoder.Finish();
        }
        return looked == 0 ? 0 : (long)(packed * (frames / (double)looked));
    }
}
