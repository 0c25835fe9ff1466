using System.Buffers.Binary;
using System.Text;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Purge;

/// <summary>A chunked file that is put together anew: chunks as they stand, or with other bytes.</summary>
/// <param name="source">The file.</param>
/// <param name="isBigEndian">Whether sizes have their highest byte first.</param>
internal sealed class ChunkPieces(ByteSource source, bool isBigEndian)
{
    // A chunk that is read to be changed; more than this is no list of marks.
    private const int MostBytes = 64 * 1024 * 1024;

    private readonly List<FilePiece> _pieces = [];

    /// <summary>Bytes so far.</summary>
    public long Length { get; private set; }

    /// <summary>The pieces, with a head before them.</summary>
    public IReadOnlyList<FilePiece> Behind(byte[] head) => [FilePiece.Of(head), .. _pieces];

    /// <summary>The body of a chunk.</summary>
    /// <exception cref="FaultException">It is too long to be changed, or cannot be read.</exception>
    public byte[] Body(ChunkInfo chunk)
    {
        var body = new byte[chunk.Bytes <= MostBytes ? (int)chunk.Bytes : throw new FaultException(new Fault(FaultCode.CannotBeCut) { Name = chunk.Id })];
        return source.TryFill(chunk.Offset, body) ? body : throw new FaultException(new Fault(FaultCode.MediaShorterThanHeader));
    }

    /// <summary>A chunk as it stands.</summary>
    public void Copy(ChunkInfo chunk) => Range(chunk.Id, chunk.Bytes, [], chunk.Offset, chunk.Bytes);

    /// <summary>A chunk with other bytes.</summary>
    public void Put(string id, byte[] body)
    {
        Head(id, body.Length);
        Literal(body);
        Pad(body.Length);
    }

    /// <summary>A chunk of bytes that are given, and a range of the file behind them.</summary>
    /// <param name="id">Its identifier.</param>
    /// <param name="stated">The size that its head states.</param>
    /// <param name="front">The bytes in front.</param>
    /// <param name="offset">First byte of the range in the file.</param>
    /// <param name="bytes">Bytes of the range.</param>
    public void Range(string id, long stated, byte[] front, long offset, long bytes)
    {
        Head(id, stated);
        Literal(front);
        if (bytes > 0)
        {
            _pieces.Add(new FilePiece(null, offset, bytes));
            Length += bytes;
        }
        Pad(front.Length + bytes);
    }

    private void Head(string id, long stated)
    {
        var head = new byte[8];
        Encoding.Latin1.GetBytes(id, head);
        var size = (uint)Math.Min(stated, uint.MaxValue);
        if (isBigEndian)
        {
            BinaryPrimitives.WriteUInt32BigEndian(head.AsSpan(4), size);
        }
        else
        {
            BinaryPrimitives.WriteUInt32LittleEndian(head.AsSpan(4), size);
        }
        Literal(head);
    }

    private void Literal(byte[] bytes)
    {
        if (bytes.Length > 0)
        {
            _pieces.Add(FilePiece.Of(bytes));
            Length += bytes.Length;
        }
    }

    /// <summary>Chunks begin at even places.</summary>
    private void Pad(long bytes)
    {
        if ((bytes & 1) == 1)
        {
            Literal([0]);
        }
    }
}
