using System.IO.Hashing;
using System.Security.Cryptography;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Origins;

/// <summary>Reckons both hashes of an origin's bytes on the way, and hands them on.</summary>
/// <param name="to">Takes the bytes; null for whoever wants the hashes alone.</param>
/// <param name="scratch">Where a file may be made for the time of the work; null where there is no such place.</param>
public sealed class HashingSink(Action<ReadOnlySpan<byte>>? to = null, Func<ScratchUse, string>? scratch = null) : IByteSink, IDisposable
{
    private readonly IncrementalHash _sha512 = IncrementalHash.CreateHash(HashAlgorithmName.SHA512);
    private readonly XxHash128 _hash = new();

    /// <inheritdoc/>
    public long Length { get; private set; }

    /// <summary>The XXH128 of what was written so far.</summary>
    public UInt128 Hash => _hash.GetCurrentHashAsUInt128();

    /// <inheritdoc/>
    public Stream? Seekable => null;

    /// <summary>The SHA-512 of what was written. To be asked once, at the end.</summary>
    public ContentHash TakeSha512() => ContentHash.Take(_sha512);

    /// <inheritdoc/>
    public void Write(ReadOnlySpan<byte> bytes)
    {
        _sha512.AppendData(bytes);
        _hash.Append(bytes);
        to?.Invoke(bytes);
        Length += bytes.Length;
    }

    /// <inheritdoc/>
    public string Scratch(ScratchUse use) => scratch?.Invoke(use) ?? throw new NotSupportedException("What is made for the time of the work has no place here.");

    /// <inheritdoc/>
    public void Dispose() => _sha512.Dispose();
}
