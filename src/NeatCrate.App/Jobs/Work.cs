using NeatCrate.App.Ground;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.Jobs;

/// <summary>How a piece of work ended, and what is so now.</summary>
public readonly record struct WorkEnd(JobState State, string? Message)
{
    /// <summary>It is done, and there is nothing to say.</summary>
    public static WorkEnd Done { get; } = new(JobState.Done, null);
}

/// <summary>Something that takes its time, as the one engine for work runs it.</summary>
/// <param name="kind">What it does.</param>
/// <param name="sentence">The same in a sentence, for the user.</param>
public abstract class Work(JobWork kind, string sentence)
{
    /// <summary>What it does.</summary>
    public JobWork Kind => kind;

    /// <summary>The same in a sentence, for the user.</summary>
    public string Sentence => sentence;

    /// <summary>The plan that it applies; null for other work.</summary>
    public virtual Plan? Plan => null;

    /// <summary>Who asked for it; null for whoever asks when it is put in line.</summary>
    public Who? By { get; init; }

    /// <summary>The session that it is about.</summary>
    public Guid? SessionId { get; init; }

    /// <summary>The shelf that it is about.</summary>
    public Guid? ShelfId { get; init; }

    /// <summary>Absolute paths of folders, or of single files, that nobody may change meanwhile.</summary>
    public IReadOnlyList<string> Reads { get; init; } = [];

    /// <summary>Absolute paths of folders, or of single files, that nobody else may read or change meanwhile.</summary>
    public IReadOnlyList<string> Changes { get; init; } = [];

    /// <summary>So many of the same kind run at once; others wait.</summary>
    public int MostAtOnce { get; init; } = int.MaxValue;

    /// <summary>True for work that is mostly over at once: it is told of only where it waits, or takes long, and not kept.</summary>
    public virtual bool IsBrief => false;

    /// <summary>Does it, on a thread of its own.</summary>
    /// <exception cref="OperationCanceledException">It was cancelled, and nothing has to be said about what is so now.</exception>
    public abstract WorkEnd Run(Job job);

    /// <summary>What is so after it was cancelled before its end.</summary>
    public virtual string WhenCancelled => "Cancelled. Nothing was changed.";

    /// <summary>What is so after an error that it did not see to itself.</summary>
    public virtual string WhenFailed(Exception cause) => "Nothing was changed. " + Problems.Describe(cause).Title;

    /// <summary>Hears of each state that the pages are told of.</summary>
    public virtual void Told(JobView view)
    {
    }

    /// <summary>True where it must not run at the same time as another.</summary>
    internal bool Meets(Work other) =>
        // What an earlier failure of a session's plan left is dealt with before the next one, so there is one at a time.
        (Plan is not null && other.Plan is not null && SessionId == other.SessionId)
        || Changes.Any(c => other.Changes.Concat(other.Reads).Any(o => Overlap(c, o))) || other.Changes.Any(c => Reads.Any(r => Overlap(c, r)));

    private static bool Overlap(string one, string other) => ShelfPath.IsWithin(one, other) || ShelfPath.IsWithin(other, one);
}
