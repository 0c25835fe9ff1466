using System.Collections.Concurrent;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Inventory;

/// <summary>Headers that were read before, kept while a file's size and time of change stay the same.</summary>
public sealed class HeaderCache
{
    private const int MaxEntries = 200_000;

    private int _kept;

    private readonly ConcurrentDictionary<string, (long Bytes, DateTime Changed, MediaHeader? Header, Fault? Problem)> _entries = new();

    /// <summary>The header of an audio file, or the reason why there is none. Files of other kinds have neither.</summary>
    public (MediaHeader? Header, Fault? Problem) Read(string path, long bytes, DateTime changedUtc)
    {
        if (_entries.TryGetValue(path, out var known) && known.Bytes == bytes && known.Changed == changedUtc)
        {
            return (known.Header, known.Problem);
        }
        var (header, problem) = ReadNow(path);
        // Counting the entries would hold up everybody who reads at the same time.
        if (Interlocked.Increment(ref _kept) > MaxEntries)
        {
            _entries.Clear();
            Interlocked.Exchange(ref _kept, 1);
        }
        _entries[path] = (bytes, changedUtc, header, problem);
        return (header, problem);
    }

    /// <summary>The same, read now and not kept.</summary>
    public static (MediaHeader? Header, Fault? Problem) ReadNow(string path)
    {
        try
        {
            return (MediaFiles.KindOf(path) == MediaKind.Audio ? MediaHeaderReader.ReadFile(path) : null, null);
        }
        catch (Exception e) when (FaultException.Of(e, path) is not null)
        {
            return (null, FaultException.Of(e, path));
        }
    }
}
