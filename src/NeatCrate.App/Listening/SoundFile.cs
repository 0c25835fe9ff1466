using System.Globalization;
using System.IO.Hashing;
using System.Text;
using NeatCrate.App.Ground;
using NeatCrate.Core.Media;

namespace NeatCrate.App.Listening;

/// <summary>A sound that can be seen and heard.</summary>
/// <param name="Path">Absolute path.</param>
/// <param name="Bytes">Size in bytes.</param>
/// <param name="ModifiedUtc">Time of the last change.</param>
/// <param name="Header">What its header says.</param>
/// <param name="CacheFolder">The session's own folder for waveform caches; null for a file of a shelf, or where the session has none.</param>
public sealed record SoundFile(string Path, long Bytes, DateTime ModifiedUtc, MediaHeader Header, string? CacheFolder)
{
    /// <summary>Changes when the file is another one, or another state of it.</summary>
    public string Key => KeyOf(Path, Bytes, ModifiedUtc);

    /// <summary>The sound at a path of which nothing is kept: its state and header are read now.</summary>
    /// <exception cref="NotKnownException">It holds none that can be read.</exception>
    public static SoundFile At(string path)
    {
        var (state, header) = (FileState.Of(path), MediaHeaderReader.ReadFile(path) ?? throw new NotKnownException("This file holds no sound that can be read."));
        return new SoundFile(path, state.Bytes, state.ModifiedUtc, header, null);
    }

    /// <summary>The key of a file in this state, whether it can be reached or not.</summary>
    public static string KeyOf(string path, long bytes, DateTime changedUtc) => XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(
        string.Create(CultureInfo.InvariantCulture, $"{path}\n{bytes}\n{changedUtc:O}"))).ToString("x32", CultureInfo.InvariantCulture);
}
