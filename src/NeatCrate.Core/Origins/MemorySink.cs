using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Origins;

/// <summary>Takes the bytes of an origin into memory, for what is small, as a document.</summary>
public sealed class MemorySink : IByteSink, IDisposable
{
    private readonly MemoryStream _bytes = new();
    private readonly long _most;

    private MemorySink(long most) => _most = most;

    /// <inheritdoc/>
    public long Length => _bytes.Length;

    /// <inheritdoc/>
    public Stream? Seekable => null;

    /// <summary>Reads an origin whole; it is held to what it must be.</summary>
    /// <param name="origin">The origin.</param>
    /// <param name="most">So many bytes at the most.</param>
    /// <param name="reading">What it is read with.</param>
    /// <exception cref="FaultException">It cannot be had, or is larger.</exception>
    public static byte[] Read(FileOrigin origin, long most, OriginReading reading)
    {
        ArgumentNullException.ThrowIfNull(origin);
        using var sink = new MemorySink(most);
        origin.WriteTo(sink, reading);
        return sink._bytes.ToArray();
    }

    /// <inheritdoc/>
    public void Write(ReadOnlySpan<byte> bytes)
    {
        if (_bytes.Length + bytes.Length > _most)
        {
            throw new FaultException(new Fault(FaultCode.DocumentTooLarge) { Bytes = _bytes.Length + bytes.Length });
        }
        _bytes.Write(bytes);
    }

    /// <inheritdoc/>
    public string Scratch(ScratchUse use) => throw new NotSupportedException("What is made for the time of the work has no place in memory.");

    /// <inheritdoc/>
    public void Dispose() => _bytes.Dispose();
}
