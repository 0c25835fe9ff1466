using System.Buffers;
using System.Globalization;
using System.IO.Hashing;
using System.Text;
using Microsoft.Win32.SafeHandles;

namespace NeatCrate.Core.Media;

/// <summary>
/// The identity of a sound: the XxHash128 of its format and its audio data alone. It survives when a program rewrites the
/// texts and chunks around the data, or moves them.
/// </summary>
/// <param name="Hash">The hash.</param>
public readonly record struct SoundIdentity(UInt128 Hash)
{
    /// <summary>Reads what <see cref="ToString"/> wrote.</summary>
    public static SoundIdentity Parse(string text) => new(UInt128.Parse(text, NumberStyles.HexNumber, CultureInfo.InvariantCulture));

    /// <summary>The hash as 32 lower-case hexadecimal digits.</summary>
    public override string ToString() => Hash.ToString("x32", CultureInfo.InvariantCulture);
}

/// <summary>Both identities of a file.</summary>
/// <param name="Bytes">Of all its bytes.</param>
/// <param name="Sound">Of its sound; null for what is no sound that was understood.</param>
/// <param name="IsSilent">True where its sound is silence, or as good as: then its identity tells it from no other silence of that length.</param>
public sealed record FileIdentities(ByteIdentity Bytes, SoundIdentity? Sound, bool IsSilent = false)
{
    // An encoder needs a few bits in a thousand samples to say that there is nothing; the quietest room needs many more.
    private const double SilentBitsPerSample = 0.25;

    private const int BufferBytes = 1024 * 1024;
    private const int PageHeadBytes = 27;

    /// <summary>Reads a whole file and tells both its identities.</summary>
    /// <param name="path">The file.</param>
    /// <param name="header">What its header says; null where it has none that was understood.</param>
    /// <param name="cancel">Stops between two reads.</param>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    public static FileIdentities OfFile(string path, MediaHeader? header, CancellationToken cancel = default) => OfFile(path, header, null, cancel);

    /// <summary>Reads a whole file and tells both its identities.</summary>
    /// <param name="path">The file.</param>
    /// <param name="header">What its header says; null where it has none that was understood.</param>
    /// <param name="read">Told after each read how many bytes it was.</param>
    /// <param name="cancel">Stops between two reads.</param>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    public static FileIdentities OfFile(string path, MediaHeader? header, Action<long>? read, CancellationToken cancel)
    {
        using var handle = ReadableFile.Open(path);
        var isPaged = header?.Container.StartsWith("Ogg ", StringComparison.Ordinal) ?? false;
        var (whole, sound) = (new XxHash128(), new XxHash128());
        if (header is not null)
        {
            sound.Append(Encoding.ASCII.GetBytes(string.Create(
                CultureInfo.InvariantCulture, $"{header.Encoding} {(header.BigEndian ? "BE" : "LE")} {header.SampleRate} {header.Channels} {header.BitsPerSample} {header.FrameBytes}\n")));
        }
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        var isSilent = header is not null && (header.Encoding != SampleEncoding.Encoded || header.DataBytes * 8 < SilentBitsPerSample * header.LengthSamples * header.Channels);
        var nothing = header?.Encoding == SampleEncoding.UnsignedInteger ? (byte)0x80 : (byte)0;
        try
        {
            var offset = 0L;
            for (int count; (count = RandomAccess.Read(handle, buffer, offset)) > 0; offset += count)
            {
                cancel.ThrowIfCancellationRequested();
                var bytes = buffer.AsSpan(0, count);
                whole.Append(bytes);
                if (header is not null && !isPaged)
                {
                    var from = Math.Clamp(header.DataOffset - offset, 0, count);
                    var to = Math.Clamp(header.DataOffset + header.DataBytes - offset, from, count);
                    sound.Append(bytes[(int)from..(int)to]);
                    isSilent = isSilent && (header.Encoding == SampleEncoding.Encoded || !bytes[(int)from..(int)to].ContainsAnyExcept(nothing));
                }
                read?.Invoke(count);
            }
            if (isPaged)
            {
                AppendPages(handle, header!, sound, buffer, cancel);
            }
            return new FileIdentities(new ByteIdentity(offset, whole.GetCurrentHashAsUInt128()), header is null ? null : new SoundIdentity(sound.GetCurrentHashAsUInt128()), isSilent);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>
    /// What stands in the pages of an Ogg file, without their heads: a longer text before the sound shifts the numbers in
    /// all of them (RFC 3533, section 6).
    /// </summary>
    private static void AppendPages(SafeFileHandle handle, MediaHeader header, XxHash128 sound, byte[] buffer, CancellationToken cancel)
    {
        Span<byte> head = stackalloc byte[PageHeadBytes];
        var end = header.DataOffset + header.DataBytes;
        for (var offset = header.DataOffset; offset < end;)
        {
            cancel.ThrowIfCancellationRequested();
            var laces = RandomAccess.Read(handle, head, offset) == PageHeadBytes && OggHeaderReader.Recognises(head) ? (int)head[26] : -1;
            var read = laces < 0 ? 0 : RandomAccess.Read(handle, buffer.AsSpan(0, laces), offset + PageHeadBytes);
            if (laces < 0 || read < laces)
            {
                // Damaged from here on: then the rest counts as it stands.
                AppendRest(handle, offset, end, sound, buffer);
                return;
            }
            var body = 0;
            foreach (var lace in buffer.AsSpan(0, laces))
            {
                body += lace;
            }
            sound.Append(head.Slice(6, 8));
            sound.Append(buffer.AsSpan(0, RandomAccess.Read(handle, buffer.AsSpan(0, body), offset + PageHeadBytes + laces)));
            offset += PageHeadBytes + laces + body;
        }
    }

    private static void AppendRest(SafeFileHandle handle, long offset, long end, XxHash128 sound, byte[] buffer)
    {
        for (int count; offset < end && (count = RandomAccess.Read(handle, buffer.AsSpan(0, (int)Math.Min(BufferBytes, end - offset)), offset)) > 0; offset += count)
        {
            sound.Append(buffer.AsSpan(0, count));
        }
    }
}

/// <summary>Tells identities of files.</summary>
public interface IIdentities
{
    /// <summary>Both identities of a file as it is now.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="header">What its header says; null where it has none that was understood.</param>
    /// <param name="read">Told after each read how many bytes it was; not at all where the identities are known.</param>
    /// <param name="cancel">Stops the reading.</param>
    /// <exception cref="IOException">The file cannot be opened or read.</exception>
    FileIdentities Identify(string path, MediaHeader? header, Action<long>? read, CancellationToken cancel);

    /// <summary>The identity of a file's samples; null for a format that has none.</summary>
    /// <param name="path">Absolute path.</param>
    /// <param name="header">What its header says.</param>
    /// <param name="between">Called before each block is read; not at all where the identity is known.</param>
    /// <param name="cancel">Stops the reading.</param>
    /// <exception cref="FaultException">It cannot be read or decoded.</exception>
    SampleIdentity? IdentifySamples(string path, MediaHeader header, Action? between, CancellationToken cancel);
}

/// <summary>Identities that are worked out anew every time.</summary>
public sealed class FreshIdentities : IIdentities
{
    /// <inheritdoc/>
    public FileIdentities Identify(string path, MediaHeader? header, Action<long>? read, CancellationToken cancel) => FileIdentities.OfFile(path, header, read, cancel);

    /// <inheritdoc/>
    public SampleIdentity? IdentifySamples(string path, MediaHeader header, Action? between, CancellationToken cancel) => SampleIdentity.OfFile(path, header, between, cancel);
}
