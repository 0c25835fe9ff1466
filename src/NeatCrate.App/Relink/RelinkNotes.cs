using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.Store;

namespace NeatCrate.App.Relink;

/// <summary>What somebody decided about a missing file that stays missing.</summary>
public enum LostMark
{
    /// <summary>Nothing: it asks.</summary>
    None,

    /// <summary>Skipped for now: it stays missing, and does not ask.</summary>
    Skipped,

    /// <summary>Gone for good: nobody has it any more. It stays on the record.</summary>
    Gone,
}

/// <summary>A mark of a missing file, with what somebody wrote to it.</summary>
public sealed record LostNote(LostMark Mark, string? Note);

/// <summary>A place that was searched, and what came of it.</summary>
/// <param name="Path">Absolute path of the folder.</param>
/// <param name="Ended">When the search ended.</param>
/// <param name="IsWhole">False where it was stopped before its end.</param>
/// <param name="Unreadable">Folders in it that could not be looked into.</param>
/// <param name="Found">How many of the files that were looked for may be there.</param>
/// <param name="NotFound">Paths of those of which nothing was found there.</param>
public sealed record SearchedPlace(string Path, DateTimeOffset Ended, bool IsWhole, int Folders, int Files, int Unreadable, int Found, ImmutableArray<string> NotFound);

/// <summary>What is remembered of a session's missing files.</summary>
public sealed record RelinkNote(ImmutableDictionary<string, LostNote> Marks, ImmutableArray<SearchedPlace> Searched)
{
    /// <summary>Nothing is.</summary>
    public static RelinkNote Nothing { get; } = new(ImmutableDictionary<string, LostNote>.Empty, []);
}

/// <summary>Remembers for every session what was decided about its missing files, and where they were looked for.</summary>
public sealed class RelinkNotes(StoredSettings settings)
{
    private const string Prefix = "relink ";
    private const int MostSearches = 100;

    private readonly KeyedSettings<RelinkNote> _known = new(settings, Prefix, RelinkNote.Nothing);
    private long _revision;

    /// <summary>Grows with every change.</summary>
    public long Revision => Interlocked.Read(ref _revision);

    /// <summary>What is remembered of a session.</summary>
    public RelinkNote Of(Guid sessionId) => _known.Of(sessionId);

    /// <summary>Marks missing files.</summary>
    public void Mark(Guid sessionId, IEnumerable<string> paths, LostNote note) => Change(
        sessionId, n => n with { Marks = note.Mark == LostMark.None ? n.Marks.RemoveRange(paths) : n.Marks.SetItems(paths.Select(p => KeyValuePair.Create(p, note))) });

    /// <summary>Remembers a search; an earlier one of the same place gives way to it.</summary>
    public void Remember(Guid sessionId, SearchedPlace search) => Change(
        sessionId, n => n with { Searched = [search, .. n.Searched.Where(s => s.Path != search.Path).Take(MostSearches - 1)] });

    private void Change(Guid sessionId, Func<RelinkNote, RelinkNote> change)
    {
        _known.Change(sessionId, change);
        Interlocked.Increment(ref _revision);
    }
}
