using System.Collections.Concurrent;

namespace NeatCrate.App.Jobs;

/// <summary>
/// Knows whether anything records at this moment: our recorder, or any program that lets a file in a session grow. As long
/// as something does, no heavy work runs and nothing is saved by itself.
/// </summary>
public sealed class RecordingGuard
{
    private static readonly TimeSpan LookEvery = TimeSpan.FromMilliseconds(150);
    private static readonly IReadOnlySet<string> Nothing = new HashSet<string>();

    private readonly ConcurrentDictionary<Guid, (string Session, IReadOnlySet<string> Files)> _growing = new();

    /// <summary>Name of the session that our recorder records into; null while it does not.</summary>
    public string? RecorderIn { get; set; }

    /// <summary>What records, in a few words for the user; null when nothing does.</summary>
    public string? What
    {
        get
        {
            if (RecorderIn is { } session)
            {
                return $"the recorder runs in '{session}'";
            }
            var (name, files) = _growing.Values.FirstOrDefault(g => g.Files.Count > 0);
            return files is null ? null : $"'{Path.GetFileName(files.First())}' is growing in '{name}'";
        }
    }

    /// <summary>Paths of a session's files that are growing.</summary>
    public IReadOnlySet<string> GrowingIn(Guid sessionId) => _growing.TryGetValue(sessionId, out var known) ? known.Files : Nothing;

    /// <summary>Takes in which files of a session are growing.</summary>
    public void SetGrowing(Guid sessionId, string name, IReadOnlyCollection<string> files)
    {
        if (files.Count == 0)
        {
            _growing.TryRemove(sessionId, out _);
        }
        else
        {
            _growing[sessionId] = (name, files.ToHashSet(StringComparer.Ordinal));
        }
    }

    /// <summary>Waits until nothing records.</summary>
    /// <param name="cancel">Ends the waiting.</param>
    /// <param name="held">Told once why it has to wait, before it does.</param>
    /// <returns>True when it had to wait.</returns>
    /// <exception cref="OperationCanceledException">The waiting was ended.</exception>
    public bool WaitUntilQuiet(CancellationToken cancel, Action<string>? held = null)
    {
        if (What is not { } what)
        {
            return false;
        }
        held?.Invoke(what);
        while (What is not null)
        {
            cancel.WaitHandle.WaitOne(LookEvery);
            cancel.ThrowIfCancellationRequested();
        }
        return true;
    }
}
