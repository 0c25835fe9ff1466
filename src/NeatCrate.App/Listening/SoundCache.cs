using System.Diagnostics.CodeAnalysis;
using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>
/// What is worked out of whole sounds, once, and kept while a file's path, size and time of change stay the same: of a
/// session's files in its own folder for waveform caches, of all others beside the database. It can be made again at any time.
/// </summary>
/// <typeparam name="T">What is worked out.</typeparam>
/// <param name="files">Where the database is.</param>
/// <param name="extension">Of the files that it is kept in, with the dot.</param>
public abstract class SoundCache<T>(StoreFiles files, string extension) : IDisposable
{
    private const int AtOnce = 2;

    private readonly SemaphoreSlim _working = new(AtOnce);

    private string Beside => Path.Combine(files.Folder, "peaks");

    /// <summary>What is known of a file, or worked out now.</summary>
    /// <exception cref="IOException">The sound cannot be read or decoded.</exception>
    public async Task<T> Of(SoundFile file, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(file);
        var name = file.Key + extension;
        string[] places = file.CacheFolder is { } cache ? [cache, Beside] : [Beside];
        foreach (var place in places)
        {
            if (await TryRead(Path.Combine(place, name), cancel) is { } kept && Read(kept, out var known))
            {
                return known;
            }
        }
        await _working.WaitAsync(cancel);
        try
        {
            var made = await Task.Run(
                () =>
                {
                    using var reader = SoundReader.Open(file.Path, file.Header);
                    return Make(reader, file.Header, cancel);
                },
                cancel);
            var bytes = Write(made);
            foreach (var place in places)
            {
                if (await TryKeep(place, name, bytes, cancel))
                {
                    break;
                }
            }
            return made;
        }
        finally
        {
            _working.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>What was kept of a file when it was there; null when nothing was.</summary>
    protected async Task<byte[]?> KeptOf(string key, string? cacheFolder, CancellationToken cancel) =>
        (cacheFolder is null ? null : await TryRead(Path.Combine(cacheFolder, key + extension), cancel)) ?? await TryRead(Path.Combine(Beside, key + extension), cancel);

    /// <summary>Works it out.</summary>
    protected abstract T Make(SoundReader reader, MediaHeader header, CancellationToken cancel);

    /// <summary>It as bytes.</summary>
    protected abstract byte[] Write(T made);

    /// <summary>It from its bytes.</summary>
    /// <returns>False where they hold something else: then it is made again.</returns>
    protected abstract bool Read(byte[] bytes, [MaybeNullWhen(false)] out T made);

    /// <summary>Lets go of what it holds.</summary>
    protected virtual void Dispose(bool disposing)
    {
        if (disposing)
        {
            _working.Dispose();
        }
    }

    private static async Task<byte[]?> TryRead(string path, CancellationToken cancel)
    {
        try
        {
            return await File.ReadAllBytesAsync(path, cancel);
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return null;
        }
    }

    /// <summary>Whole or not at all: a reader must never see half of it. A session on a drive that cannot be written to has it elsewhere.</summary>
    private static async Task<bool> TryKeep(string folder, string name, byte[] bytes, CancellationToken cancel)
    {
        var temporary = Path.Combine(folder, $".{name}.{Guid.NewGuid():N}");
        try
        {
            Directory.CreateDirectory(folder);
            await File.WriteAllBytesAsync(temporary, bytes, cancel);
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
