namespace NeatCrate.Core.Files;

/// <summary>The bytes of a file that is open already, as header readers want them. It stays open.</summary>
/// <param name="file">The file.</param>
/// <param name="path">Absolute path of it, for whoever is told.</param>
internal sealed class OpenBytes(SourceFile file, string path) : ByteSource
{
    /// <inheritdoc/>
    public override long Length { get; } = file.Facts.Bytes;

    /// <inheritdoc/>
    public override int Read(long offset, Span<byte> buffer)
    {
        var done = 0;
        while (done < buffer.Length && offset + done < Length)
        {
            done += file.ReadSource(path, buffer[done..(int)Math.Min(buffer.Length, Length - offset)], offset + done);
        }
        return done;
    }
}
