using System.Buffers;
using System.IO.Hashing;
using Microsoft.Win32.SafeHandles;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>Reading, writing and comparing whole files for the runner.</summary>
internal static class FileTransfer
{
    private const int BufferBytes = 1024 * 1024;

    /// <summary>
    /// Puts a new temporary file together from pieces of another one, hashing on the way, flushes it, reads it back and
    /// compares. The time of the last change comes along.
    /// </summary>
    /// <exception cref="IOException">A read or write failed, the source changed meanwhile, or what was written is not the same.</exception>
    /// <exception cref="SourceFailedException">It is the source that cannot be had.</exception>
    public static ByteIdentity AssembleAndCompare(string source, FileState expected, IReadOnlyList<FilePiece> pieces, string temporary, StepContext context)
    {
        using var from = OpenSource(source, expected);
        using var to = CreateNew(temporary, pieces.Sum(p => p.Length));
        var hash = new XxHash128();
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        var offset = 0L;
        void Put(ReadOnlySpan<byte> bytes)
        {
            hash.Append(bytes);
            RandomAccess.Write(to, bytes, offset);
            offset += bytes.Length;
            context.Worked(bytes.Length);
        }
        try
        {
            foreach (var piece in pieces)
            {
                if (piece.Literal is { } literal)
                {
                    Put(literal);
                    continue;
                }
                for (var done = 0L; done < piece.Length;)
                {
                    context.Cancel.ThrowIfCancellationRequested();
                    var count = ReadSource(from, source, buffer.AsSpan(0, (int)Math.Min(BufferBytes, piece.Length - done)), piece.Offset + done);
                    Put(buffer.AsSpan(0, count));
                    done += count;
                }
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
        RequireUnchanged(from, source, expected);
        File.SetLastWriteTimeUtc(to, expected.ChangedUtc);
        var written = new ByteIdentity(offset, hash.GetCurrentHashAsUInt128());
        FlushAndCompare(to, temporary, written, context);
        return written;
    }

    /// <summary>Opens a file that is to be copied, as the plan saw it.</summary>
    /// <exception cref="SourceFailedException">It cannot be opened, or is not what the plan saw.</exception>
    public static SafeFileHandle OpenSource(string source, FileState expected)
    {
        try
        {
            var handle = File.OpenHandle(source, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, FileOptions.SequentialScan);
            RequireUnchanged(handle, source, expected);
            return handle;
        }
        catch (Exception e) when (e is (IOException or UnauthorizedAccessException) and not SourceFailedException)
        {
            throw SourceFailed(source, e);
        }
    }

    private static SourceFailedException SourceFailed(string source, Exception cause) => new(
        Directory.Exists(Path.GetDirectoryName(source))
            ? $"'{Path.GetFileName(source)}' cannot be read: {cause.Message}"
            : $"'{Path.GetFileName(source)}' is no longer to be had: '{Path.GetDirectoryName(source)}' cannot be reached.",
        cause);

    private static int ReadSource(SafeFileHandle from, string source, Span<byte> buffer, long offset)
    {
        int count;
        try
        {
            count = RandomAccess.Read(from, buffer, offset);
        }
        catch (IOException e)
        {
            throw SourceFailed(source, e);
        }
        return count > 0 ? count : throw new SourceFailedException($"'{Path.GetFileName(source)}' ends before the part that is needed of it.");
    }

    /// <summary>Why a file cannot be taken as the plan saw it, each a sentence.</summary>
    public static IEnumerable<string> SourceRefusals(string source, FileState expected)
    {
        if (!File.Exists(source))
        {
            yield return $"'{Path.GetFileName(source)}' is no longer there, in '{Path.GetDirectoryName(source)}'.";
        }
        else if (FileState.Of(source) != expected)
        {
            yield return $"'{Path.GetFileName(source)}' has changed since the plan was made.";
        }
    }

    /// <summary>Writes bytes to a new temporary file and flushes it.</summary>
    public static ByteIdentity WriteNew(string temporary, ReadOnlySpan<byte> content)
    {
        using var to = CreateNew(temporary, content.Length);
        RandomAccess.Write(to, content, 0);
        RandomAccess.FlushToDisk(to);
        return ByteIdentity.Of(content);
    }

    /// <summary>Opens a new file for writing; space is set apart at once, so that a full disk shows before the work.</summary>
    public static SafeFileHandle CreateNew(string path, long bytes) =>
        File.OpenHandle(path, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.Read, FileOptions.None, bytes);

    /// <summary>Flushes a file, reads it back from disk and compares it with what was meant to be written.</summary>
    /// <exception cref="IOException">What is on disk is something else.</exception>
    public static void FlushAndCompare(SafeFileHandle handle, string path, ByteIdentity written, StepContext context)
    {
        RandomAccess.FlushToDisk(handle);
        FileCalls.DropCached(handle);
        if (ByteIdentity.OfFile(path, context.Worked, context.Cancel) != written)
        {
            throw new IOException("What was read back from the disk is not what was written to it. The drive or its cable may be failing.");
        }
    }

    /// <summary>Refuses a source that is not what the plan saw.</summary>
    public static void RequireUnchanged(SafeFileHandle handle, string path, FileState expected)
    {
        if (RandomAccess.GetLength(handle) != expected.Bytes || File.GetLastWriteTimeUtc(handle) != expected.ChangedUtc)
        {
            throw new SourceFailedException($"'{Path.GetFileName(path)}' has changed since the plan was made.");
        }
    }

    /// <summary>True when a file is there and holds exactly these bytes.</summary>
    public static bool Holds(string path, ByteIdentity identity) =>
        new FileInfo(path) is { Exists: true } file && file.Length == identity.Bytes && ByteIdentity.OfFile(path) == identity;

    /// <summary>Removes one of the runner's own temporary files, if it and its folder are still there.</summary>
    public static void RemoveTemporary(string temporary)
    {
        if (File.Exists(temporary))
        {
            File.Delete(temporary);
        }
    }
}
