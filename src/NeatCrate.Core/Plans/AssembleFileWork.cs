using System.Buffers;
using System.IO.Hashing;
using Microsoft.Win32.SafeHandles;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>The work of an <see cref="AssembleFileStep"/>.</summary>
internal sealed class AssembleFileWork : NewFileWork
{
    private const int BufferBytes = 1024 * 1024;

    /// <inheritdoc/>
    public override IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var assemble = (AssembleFileStep)step;
        return base.Refusals(step, vacated).Concat(SourceRefusals(assemble.Source, assemble.Expected));
    }

    /// <inheritdoc/>
    protected override void Stage(PlanStep step, string temporary, StepContext context)
    {
        var assemble = (AssembleFileStep)step;
        using var from = File.OpenHandle(assemble.Source, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete, FileOptions.SequentialScan);
        FileTransfer.RequireUnchanged(from, assemble.Source, assemble.Expected);
        using var to = FileTransfer.CreateNew(temporary, assemble.WritesBytes);
        var hash = new XxHash128();
        var offset = 0L;
        foreach (var piece in assemble.Pieces)
        {
            if (piece.Literal is { } literal)
            {
                Put(to, literal, hash, ref offset, context);
            }
            else
            {
                Copy(from, piece, to, hash, ref offset, context, assemble.Source);
            }
        }
        FileTransfer.RequireUnchanged(from, assemble.Source, assemble.Expected);
        File.SetLastWriteTimeUtc(to, assemble.Expected.ChangedUtc);
        var written = new ByteIdentity(offset, hash.GetCurrentHashAsUInt128());
        FileTransfer.FlushAndCompare(to, temporary, written, context);
        context.Staged(written);
    }

    private static void Copy(SafeFileHandle from, FilePiece piece, SafeFileHandle to, XxHash128 hash, ref long offset, StepContext context, string source)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            for (var done = 0L; done < piece.Length;)
            {
                context.Cancel.ThrowIfCancellationRequested();
                var count = RandomAccess.Read(from, buffer.AsSpan(0, (int)Math.Min(BufferBytes, piece.Length - done)), piece.Offset + done);
                if (count == 0)
                {
                    throw new IOException($"'{Path.GetFileName(source)}' ends before the part that is needed of it.");
                }
                Put(to, buffer.AsSpan(0, count), hash, ref offset, context);
                done += count;
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    private static void Put(SafeFileHandle to, ReadOnlySpan<byte> bytes, XxHash128 hash, ref long offset, StepContext context)
    {
        hash.Append(bytes);
        RandomAccess.Write(to, bytes, offset);
        offset += bytes.Length;
        context.Worked(bytes.Length);
    }
}
