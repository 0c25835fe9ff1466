using NeatCrate.Store;

namespace NeatCrate.App.Ground;

/// <summary>What is remembered for each of many, as for each session. Read once, and kept: it is asked for all of them again and again.</summary>
/// <param name="settings">Where it is remembered.</param>
/// <param name="prefix">What its keys begin with, before the identity.</param>
/// <param name="standard">What holds where nothing is remembered, at this moment.</param>
public sealed class KeyedSettings<T>(StoredSettings settings, string prefix, Func<T> standard)
    where T : class
{
    /// <param name="settings">Where it is remembered.</param>
    /// <param name="prefix">What its keys begin with, before the identity.</param>
    /// <param name="standard">What holds where nothing is remembered.</param>
    public KeyedSettings(StoredSettings settings, string prefix, T standard)
        : this(settings, prefix, () => standard)
    {
    }

    private readonly Lock _lock = new();
    private readonly ReadOnce<IReadOnlyDictionary<string, T>> _known = new(() => settings.ReadAll<T>(prefix));

    /// <summary>What is remembered for one.</summary>
    public T Of(Guid id) => _known.Value.GetValueOrDefault(prefix + id) ?? standard();

    /// <summary>Changes it.</summary>
    /// <returns>What held before, and what holds now.</returns>
    public (T Before, T Now) Change(Guid id, Func<T, T> change)
    {
        ArgumentNullException.ThrowIfNull(change);
        lock (_lock)
        {
            var before = Of(id);
            var now = change(before);
            settings.Write(prefix + id, now);
            _known.Changed();
            return (before, now);
        }
    }
}
