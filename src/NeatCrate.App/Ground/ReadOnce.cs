namespace NeatCrate.App.Ground;

/// <summary>
/// Something that is asked for all the time and seldom changes: read when it is asked for, and kept until somebody says that
/// it changed. What was being read at that moment is not kept.
/// </summary>
/// <param name="read">Reads it.</param>
public sealed class ReadOnce<T>(Func<T> read) where T : class
{
    private readonly Lock _lock = new();
    private long _changes;
    private T? _kept;

    /// <summary>It, as it was when it last changed or later.</summary>
    public T Value
    {
        get
        {
            long changes;
            lock (_lock)
            {
                if (_kept is { } kept)
                {
                    return kept;
                }
                changes = _changes;
            }
            var value = read();
            lock (_lock)
            {
                if (changes == _changes)
                {
                    _kept = value;
                }
            }
            return value;
        }
    }

    /// <summary>Says that it changed.</summary>
    public void Changed()
    {
        lock (_lock)
        {
            _changes++;
            _kept = null;
        }
    }
}
