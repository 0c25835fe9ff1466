using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>
/// Outlines of sounds, computed once and kept while a file's path, size and time of change stay the same: those of a
/// session's files in its own folder for waveform caches, all others beside the database. They can be made again at any time.
/// </summary>
public sealed class PeaksCache(StoreFiles files) : IDisposable
{
    private const int AtOnce = 2;
    private const string Extension = ".peaks";

    private readonly SemaphoreSlim _working = new(AtOnce);

    private string Beside => Path.Combine(files.Folder, "peaks");

    /// <summary>The outline of a file.</summary>
    /// <exception cref="IOException">The sound cannot be read or decoded.</exception>
    public async Task<Peaks> Of(SoundFile file, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(file);
        var name = file.Key + Extension;
        string[] places = file.CacheFolder is { } cache ? [cache, Beside] : [Beside];
        foreach (var place in places)
        {
            if (await TryRead(Path.Combine(place, name), cancel) is { } known)
            {
                return known;
            }
        }
        await _working.WaitAsync(cancel);
        try
        {
            var peaks = await Task.Run(
                () =>
                {
                    using var reader = SoundReader.Open(file.Path, file.Header);
                    return Peaks.Of(reader, cancel: cancel);
                },
                cancel);
            foreach (var place in places)
            {
                if (await TryKeep(place, name, peaks, cancel))
                {
                    break;
                }
            }
            return peaks;
        }
        finally
        {
            _working.Release();
        }
    }

    /// <summary>The outline of a file of a shelf as it was kept when the shelf was there; null when none was.</summary>
    /// <param name="key">As <see cref="SoundFile.KeyOf"/> has it.</param>
    /// <param name="cancel">Stops.</param>
    public Task<Peaks?> Kept(string key, CancellationToken cancel) => TryRead(Path.Combine(Beside, key + Extension), cancel);

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

    /// <summary>Whole or not at all: a reader must never see half an outline. A session on a drive that cannot be written to has its outlines elsewhere.</summary>
    private static async Task<bool> TryKeep(string folder, string name, Peaks peaks, CancellationToken cancel)
    {
        var temporary = Path.Combine(folder, $".{name}.{Guid.NewGuid():N}");
        try
        {
            Directory.CreateDirectory(folder);
            await File.WriteAllBytesAsync(temporary, peaks.Pairs, cancel);
            File.Move(temporary, Path.Combine(folder, name), overwrite: true);
            return true;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            File.Delete(temporary);
            return false;
        }
    }
}
