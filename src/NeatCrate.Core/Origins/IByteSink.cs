using System.Buffers;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Origins;

/// <summary>What takes the bytes of an origin in, in order: a new file, an entry of a bag, an object of a store.</summary>
public interface IByteSink
{
    /// <summary>Bytes that were written.</summary>
    long Length { get; }

    /// <summary>Writes at the end.</summary>
    void Write(ReadOnlySpan<byte> bytes);

    /// <summary>Absolute path of a file that may be made for the time of the work, and is removed by whoever makes it; after a crash by the step.</summary>
    /// <param name="use">Which of the two that there are.</param>
    string Scratch(ScratchUse use);

    /// <summary>The same bytes as a stream in which one can go back; null where they must come in order.</summary>
    Stream? Seekable { get; }
}

/// <summary>What a file is for that is made for the time of the work.</summary>
public enum ScratchUse
{
    /// <summary>What a transform reads, where that stands in no file of its own.</summary>
    Source,

    /// <summary>What a transform makes, where it is to go into something that is written in order.</summary>
    Made,
}

/// <summary>Copying into a sink.</summary>
public static class ByteSinkExtensions
{
    private const int BufferBytes = 1024 * 1024;

    /// <summary>Copies a range of a file to the end.</summary>
    /// <exception cref="FaultException">The source does not give it.</exception>
    public static void Copy(this IByteSink to, SourceFile from, string source, long offset, long length, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(to);
        ArgumentNullException.ThrowIfNull(from);
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            for (var done = 0L; done < length;)
            {
                cancel.ThrowIfCancellationRequested();
                var count = from.ReadSource(source, buffer.AsSpan(0, (int)Math.Min(BufferBytes, length - done)), offset + done);
                to.Write(buffer.AsSpan(0, count));
                done += count;
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }
}
