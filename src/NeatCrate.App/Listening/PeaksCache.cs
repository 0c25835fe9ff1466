using NeatCrate.Core.Media;
using NeatCrate.Store;

namespace NeatCrate.App.Listening;

/// <summary>Outlines of sounds.</summary>
public sealed class PeaksCache(StoreFiles files) : SoundCache<Peaks>(files, ".peaks")
{
    /// <summary>The outline of a file as it was kept when the file was there; null when none was.</summary>
    /// <param name="key">As <see cref="SoundFile.KeyOf"/> has it.</param>
    /// <param name="cacheFolder">The session's own folder for waveform caches, where the file belongs inside; null where there is none.</param>
    /// <param name="cancel">Stops.</param>
    public async Task<Peaks?> Kept(string key, string? cacheFolder, CancellationToken cancel) => await KeptOf(key, cacheFolder, cancel) is { } bytes && Read(bytes, out var kept) ? kept : null;

    /// <inheritdoc/>
    protected override Peaks Make(SoundReader reader, MediaHeader header, CancellationToken cancel) => Peaks.Of(reader, cancel: cancel);

    /// <inheritdoc/>
    protected override byte[] Write(Peaks made)
    {
        ArgumentNullException.ThrowIfNull(made);
        return made.Pairs;
    }

    /// <inheritdoc/>
    protected override bool Read(byte[] bytes, out Peaks made)
    {
        made = new Peaks(bytes);
        return true;
    }
}
