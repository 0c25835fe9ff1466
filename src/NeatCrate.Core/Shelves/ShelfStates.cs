using System.Collections.Concurrent;
using System.Diagnostics;

namespace NeatCrate.Core.Shelves;

/// <summary>
/// The one place where it is looked whether shelves are there. A drive that hangs makes nobody wait for longer than a moment,
/// and then for nobody any more until it answers: a look that does not come back is not asked for again. Each shelf is looked
/// at by a thread of its own, and its time counts from when that thread began to look, so that a busy machine is not taken for drives
/// that hang.
/// </summary>
/// <param name="look">Looks at the folder of a shelf, however long that takes.</param>
/// <param name="patience">So long is waited for an answer.</param>
public sealed class ShelfStates(Func<string, ShelfState> look, TimeSpan patience)
{
    private readonly ConcurrentDictionary<string, Probe> _probes = new(StringComparer.Ordinal);

    /// <summary>Looks at real drives, and waits for a second.</summary>
    public ShelfStates() : this(ShelfState.Of, TimeSpan.FromSeconds(1))
    {
    }

    /// <summary>How the shelves at these folders are now, in their order.</summary>
    /// <param name="roots">Absolute paths of their top folders.</param>
    public IReadOnlyList<ShelfState> Of(IReadOnlyList<string> roots)
    {
        ArgumentNullException.ThrowIfNull(roots);
        // All are asked before one is waited for, so that three that hang take no longer than one.
        var asked = roots.Select(r => _probes.GetOrAdd(r, root => new Probe(root, look, patience))).Select(p => (Probe: p, Ask: p.Ask())).ToList();
        return asked.ConvertAll(a => a.Probe.Answer(a.Ask));
    }

    /// <summary>Looks at one shelf, whenever somebody asks.</summary>
    private sealed class Probe(string root, Func<string, ShelfState> look, TimeSpan patience)
    {
        // A machine that does not let a thread begin for so many times the patience is as good as one whose drive hangs.
        private const int TimesToBegin = 10;

        // A thread that nobody asked for so long ends; the next one who asks starts another.
        private static readonly TimeSpan Idle = TimeSpan.FromSeconds(5);

        private readonly object _lock = new();
        private long _asked;
        private long _answered;
        private long? _begun;
        private bool _runs;
        private bool _hangs;
        private ShelfState _state = ShelfState.Silent;

        /// <summary>Asks for a look that begins from now on.</summary>
        public long Ask()
        {
            lock (_lock)
            {
                if (_hangs)
                {
                    return _asked;
                }
                _asked++;
                if (!_runs)
                {
                    _runs = true;
                    new Thread(Run) { IsBackground = true, Name = "shelf " + root }.Start();
                }
                Monitor.PulseAll(_lock);
                return _asked;
            }
        }

        /// <summary>The answer, waited for as long as there is time.</summary>
        public ShelfState Answer(long ask)
        {
            var waited = Stopwatch.StartNew();
            lock (_lock)
            {
                while (_answered < ask && !_hangs)
                {
                    var rest = _begun is { } begun ? patience - Stopwatch.GetElapsedTime(begun) : (patience * TimesToBegin) - waited.Elapsed;
                    if (rest <= TimeSpan.Zero)
                    {
                        _hangs = true;
                    }
                    else
                    {
                        Monitor.Wait(_lock, rest);
                    }
                }
                return _answered >= ask ? _state : ShelfState.Silent;
            }
        }

        private void Run()
        {
            while (true)
            {
                long asked;
                lock (_lock)
                {
                    while (_asked == _answered)
                    {
                        if (!Monitor.Wait(_lock, Idle) && _asked == _answered)
                        {
                            _runs = false;
                            return;
                        }
                    }
                    asked = _asked;
                    _begun = Stopwatch.GetTimestamp();
                    // Whoever waits for it counts from now on.
                    Monitor.PulseAll(_lock);
                }
                var state = Look();
                lock (_lock)
                {
                    (_state, _answered, _hangs, _begun) = (state, asked, false, null);
                    Monitor.PulseAll(_lock);
                }
            }
        }

        private ShelfState Look()
        {
            try
            {
                return look(root);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                return ShelfState.Silent;
            }
        }
    }
}
