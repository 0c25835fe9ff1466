using System.Collections.Concurrent;

namespace NeatCrate.Core.Shelves;

/// <summary>
/// The one place where it is looked whether shelves are there. A drive that hangs makes nobody wait for longer than a moment,
/// and then for nobody any more until it answers: a look that does not come back is not asked for again.
/// </summary>
/// <param name="look">Looks at the folder of a shelf, however long that takes.</param>
/// <param name="patience">So long is waited for an answer.</param>
public sealed class ShelfStates(Func<string, ShelfState> look, TimeSpan patience)
{
    private readonly ConcurrentDictionary<string, Task<ShelfState>> _hanging = new(StringComparer.Ordinal);

    /// <summary>Looks at real drives, and waits for half a second.</summary>
    public ShelfStates() : this(ShelfState.Of, TimeSpan.FromSeconds(0.5))
    {
    }

    /// <summary>How the shelves at these folders are now, in their order.</summary>
    /// <param name="roots">Absolute paths of their top folders.</param>
    public IReadOnlyList<ShelfState> Of(IReadOnlyList<string> roots)
    {
        ArgumentNullException.ThrowIfNull(roots);
        var looks = roots.Select(Look).ToArray();
        // All drives are waited for together, so that three that hang take no longer than one.
        Task.WaitAny(Task.WhenAll(looks.Where(l => l.IsNew).Select(l => l.Task)), Task.Delay(patience));
        return [.. roots.Zip(looks, (root, l) => Answer(root, l.Task))];
    }

    private (Task<ShelfState> Task, bool IsNew) Look(string root)
    {
        if (_hanging.TryGetValue(root, out var hanging))
        {
            if (!hanging.IsCompleted)
            {
                return (hanging, false);
            }
            _hanging.TryRemove(root, out _);
        }
        return (Task.Run(() => look(root)), true);
    }

    private ShelfState Answer(string root, Task<ShelfState> task)
    {
        if (task.IsCompletedSuccessfully)
        {
            return task.Result;
        }
        if (!task.IsCompleted)
        {
            _hanging[root] = task;
        }
        return ShelfState.Silent;
    }
}
