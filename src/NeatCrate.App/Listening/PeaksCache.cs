using System.Globalization;
using System.IO.Hashing;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>
/// Outlines of sounds, computed once and kept beside the database while a file's path, size and time of change stay the
/// same. They can be made again at any time.
/// </summary>
public sealed class PeaksCache(StoreFiles files) : IDisposable
{
    private const int AtOnce = 2;

    private readonly SemaphoreSlim _working = new(AtOnce);

    /// <summary>The outline of a file.</summary>
    /// <exception cref="IOException">The sound cannot be read or decoded.</exception>
    public async Task<Peaks> Of(InventoryFile file, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(file);
        var kept = Path.Combine(files.Folder, "peaks", Key(file) + ".peaks");
        if (await TryRead(kept, cancel) is { } known)
        {
            return known;
        }
        await _working.WaitAsync(cancel);
        try
        {
            var peaks = await Task.Run(
                () =>
                {
                    using var reader = SoundReader.Open(file.Path, file.Header!);
                    return Peaks.Of(reader, cancel: cancel);
                },
                cancel);
            await Keep(kept, peaks, cancel);
            return peaks;
        }
        finally
        {
            _working.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _working.Dispose();

    private static async Task<Peaks?> TryRead(string path, CancellationToken cancel)
    {
        try
        {
            return new Peaks(await File.ReadAllBytesAsync(path, cancel));
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return null;
        }
    }

    /// <summary>Whole or not at all: a reader must never see half an outline.</summary>
    private static async Task Keep(string path, Peaks peaks, CancellationToken cancel)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var temporary = $"{path}.{Guid.NewGuid():N}";
        await File.WriteAllBytesAsync(temporary, peaks.Pairs, cancel);
        File.Move(temporary, path, overwrite: true);
    }

    private static string Key(InventoryFile file) => XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(
        string.Create(CultureInfo.InvariantCulture, $"{file.Path}\n{file.Bytes}\n{file.ChangedUtc:O}"))).ToString("x32", CultureInfo.InvariantCulture);
}
