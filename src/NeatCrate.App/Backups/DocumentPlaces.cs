using System.Collections.Concurrent;
using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>Where states of a session's documents are kept.</summary>
/// <param name="Own">In Neat Crate's own data folder: the newest of each document, so that the session folder is left alone until something is saved.</param>
/// <param name="Session">In the session folder.</param>
/// <param name="Second">On another shelf; null where none is chosen.</param>
/// <param name="SecondShelf">That shelf.</param>
public sealed record KeptPlaces(KeptDocuments Own, KeptDocuments Session, KeptDocuments? Second, Shelf? SecondShelf)
{
    /// <summary>The second place, while its drive is there.</summary>
    public KeptDocuments? SecondThere => SecondShelf is { IsConnected: true } ? Second : null;
}

/// <summary>A kept state with the places that hold it.</summary>
/// <param name="Kept">The state.</param>
/// <param name="IsHere">True where it is in the session folder, or in our own.</param>
/// <param name="IsInSecond">True where the second place holds it.</param>
/// <param name="Place">A place that holds it.</param>
public sealed record PlacedState(KeptDocument Kept, bool IsHere, bool IsInSecond, KeptDocuments Place)
{
    /// <summary>Where it may stand a moment later: our own place lets it go once the session folder holds it.</summary>
    public ImmutableArray<KeptDocuments> Elsewhere { get; init; } = [];

    /// <summary>Absolute path of it: in that place, or where it went since.</summary>
    public string Path
    {
        get
        {
            var here = PathIn(Place);
            return File.Exists(here) ? here : Elsewhere.Select(PathIn).FirstOrDefault(File.Exists) ?? here;
        }
    }

    /// <summary>Its bytes, read in whichever place has it when it comes to that.</summary>
    /// <exception cref="FaultException">No place has it any more, or it cannot be read.</exception>
    public byte[] Read()
    {
        var path = Path;
        try
        {
            return ReadableFile.ReadAll(path, DocumentFormats.MostBytes);
        }
        catch (FaultException) when (Path is var then && then != path)
        {
            return ReadableFile.ReadAll(then, DocumentFormats.MostBytes);
        }
    }

    private string PathIn(KeptDocuments place) => System.IO.Path.Combine(place.Folder, Kept.Name);
}

/// <summary>What is kept of a session's documents.</summary>
/// <param name="States">The states, the newest last.</param>
/// <param name="Behind">How many of them the second place does not hold; null where there is none, or it is away and nobody knows.</param>
/// <param name="BehindSince">Of when the oldest of those is, in local time.</param>
/// <param name="Changed">Absolute paths at which something else stands than what was kept.</param>
public sealed record KeptStates(ImmutableArray<PlacedState> States, int? Behind, DateTime? BehindSince, ImmutableArray<string> Changed);

/// <summary>Knows the places in which states of documents are kept, and what each holds.</summary>
public sealed class DocumentPlaces(ShelfService shelves, SessionService sessions, BackupChoices choices, StoredSettings settings, AppOptions options, IDurableFiles files)
{
    private const string SecondKnown = "second place ";

    private readonly ConcurrentDictionary<(string Folder, string Root), KeptDocuments> _kept = new();

    // What a second place was seen to hold, by session: newer than what is written down, since a drive may go between the two.
    private readonly ConcurrentDictionary<Guid, (string Folder, HashSet<string> Names)> _seen = new();

    /// <summary>What a place holds; null where it cannot be looked into now. Whoever keeps something there says so.</summary>
    private static (ImmutableArray<KeptDocument> Whole, ImmutableArray<string> Changed)? Held(KeptDocuments place)
    {
        try
        {
            return place.Look();
        }
        catch (FaultException)
        {
            return null;
        }
    }

    private Clashes? _clashing;

    private sealed record Clashes(IReadOnlyList<SessionRow> Of, HashSet<string> Names);

    /// <summary>What the second place of a session held when it was there last.</summary>
    private sealed record SecondHeld(ImmutableArray<string> Names);

    /// <summary>The places of a session.</summary>
    public KeptPlaces Of(SessionRow session) => Of(session, null);

    /// <summary>The same among those of many sessions.</summary>
    /// <param name="session">The session.</param>
    /// <param name="known">All known shelves, looked at once for all; null to look now.</param>
    public KeptPlaces Of(SessionRow session, IReadOnlyList<Shelf>? known)
    {
        ArgumentNullException.ThrowIfNull(session);
        var shelf = choices.Of(session.Id).SecondShelf is { } id ? (known ?? shelves.All()).FirstOrDefault(s => s.Id == id) : null;
        var name = PortableName.Suggest(Path.GetFileName(session.Folder));
        if (Clashing().Contains(PortableName.ClashKey(Path.GetFileName(session.Folder))))
        {
            name = $"{name} ({session.Id.ToString("N")[..8]})";
        }
        return new KeptPlaces(
            In(Path.Combine(options.DataFolder, "document-backups", session.Id.ToString()), options.DataFolder),
            In(Path.Combine(session.Folder, KeptDocuments.FolderName), session.Folder),
            shelf is null ? null : In(Path.Combine(shelf.Root, KeptDocuments.SecondFolderName, name), shelf.Root),
            shelf);
    }

    /// <summary>True where a second place is chosen for a session, there or not.</summary>
    public bool HaveSecond(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        return choices.Of(session.Id).SecondShelf is not null;
    }

    /// <summary>What is kept of a session's documents, in all places that are there.</summary>
    public KeptStates StatesOf(SessionRow session) => StatesOf(session, Of(session));

    /// <summary>The same where the places are known.</summary>
    public KeptStates StatesOf(SessionRow session, KeptPlaces places)
    {
        ArgumentNullException.ThrowIfNull(session);
        ArgumentNullException.ThrowIfNull(places);
        var here = new Dictionary<string, (KeptDocument Kept, KeptDocuments Place)>(StringComparer.Ordinal);
        var changed = new List<string>();
        foreach (var place in Directory.Exists(session.Folder) ? new[] { places.Own, places.Session } : [places.Own])
        {
            if (Held(place) is { } held)
            {
                foreach (var kept in held.Whole)
                {
                    here[kept.Name] = (kept, place);
                }
                changed.AddRange(held.Changed.Select(n => Path.Combine(place.Folder, n)));
            }
        }
        var looked = HeldBySecond(places);
        changed.AddRange((looked?.Changed ?? []).Select(n => Path.Combine(places.Second!.Folder, n)));
        var second = looked?.Whole;
        HashSet<string>? inSecond = second?.Select(k => k.Name).ToHashSet(StringComparer.Ordinal);
        if (inSecond is not null)
        {
            _seen[session.Id] = (places.Second!.Folder, inSecond);
        }
        else if (places.Second is not null)
        {
            inSecond = _seen.TryGetValue(session.Id, out var seen) && seen.Folder == places.Second.Folder ? seen.Names : settings.Read<SecondHeld>(SecondKnown + session.Id)?.Names.ToHashSet(StringComparer.Ordinal);
        }
        // What was said of a state stands with one of its copies.
        var notes = (second ?? []).Where(k => k.Note is not null).ToDictionary(k => k.Name, k => k.Note, StringComparer.Ordinal);
        var states = here.Values.Select(h => new PlacedState(h.Kept.Note is null && notes.TryGetValue(h.Kept.Name, out var note) ? h.Kept with { Note = note } : h.Kept, true, inSecond?.Contains(h.Kept.Name) ?? false, h.Place)
        {
            Elsewhere = places.SecondThere is { } there ? [places.Session, there] : [places.Session],
        })
            .Concat((second ?? []).Where(k => !here.ContainsKey(k.Name)).Select(k => new PlacedState(k, false, true, places.Second!)))
            .OrderBy(s => s.Kept.Saved).ThenBy(s => s.Kept.Name.Length).ThenBy(s => s.Kept.Name, StringComparer.Ordinal).ToImmutableArray();
        var behind = places.Second is null ? [] : states.Where(s => !s.IsInSecond).ToList();
        return new KeptStates(states, places.Second is null ? null : behind.Count, behind.Count == 0 ? null : behind[0].Kept.Saved, [.. changed]);
    }

    /// <summary>A kept state of this name.</summary>
    /// <exception cref="FaultException">No place that is there holds one (<see cref="FaultCode.VersionGone"/>).</exception>
    public PlacedState Find(SessionRow session, string name) =>
        StatesOf(session).States.FirstOrDefault(s => s.Kept.Name == name && File.Exists(s.Path)) ?? throw new FaultException(new Fault(FaultCode.VersionGone) { Name = name });

    /// <summary>Brings the second place up to date, where it is there. What it and the session hold goes from our own place.</summary>
    /// <param name="session">The session.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <param name="cancel">Stops between two states.</param>
    /// <returns>How many states came.</returns>
    public int CatchUp(SessionRow session, Action<int, int, string>? progress, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(session);
        var places = Of(session);
        if (places.SecondThere is not { } second)
        {
            return 0;
        }
        var came = places.Session.Heal(second) + places.Own.Heal(second) + second.CatchUp(places.Own, cancel, progress) + second.CatchUp(places.Session, cancel, progress);
        Remember(session);
        if (choices.Of(session.Id).KeepsInSession)
        {
            places.Own.LetGo(places.Session, second);
        }
        return came;
    }

    /// <summary>Writes down what the second place holds, for when it is away.</summary>
    public void Remember(SessionRow session)
    {
        ArgumentNullException.ThrowIfNull(session);
        var places = Of(session);
        if (HeldBySecond(places) is { } held)
        {
            ImmutableArray<string> names = [.. held.Whole.Select(k => k.Name)];
            settings.Write(SecondKnown + session.Id, new SecondHeld(names));
            _seen[session.Id] = (places.Second!.Folder, [.. names]);
        }
    }

    /// <summary>What the second place holds; null where nobody can tell. One that went in this moment looks empty, and is not.</summary>
    private static (ImmutableArray<KeptDocument> Whole, ImmutableArray<string> Changed)? HeldBySecond(KeptPlaces places)
    {
        var held = places.SecondThere is { } there ? Held(there) : null;
        return held is { Whole: [] } && !Directory.Exists(places.SecondShelf!.Root) ? null : held;
    }

    /// <summary>Names of folders that several sessions have; worked out once for each change of what is known.</summary>
    private HashSet<string> Clashing()
    {
        var (known, all) = (_clashing, sessions.All());
        if (!ReferenceEquals(known?.Of, all))
        {
            _clashing = known = new Clashes(all, all.GroupBy(s => PortableName.ClashKey(Path.GetFileName(s.Folder))).Where(g => g.Count() > 1).Select(g => g.Key).ToHashSet(StringComparer.Ordinal));
        }
        return known!.Names;
    }

    private KeptDocuments In(string folder, string root) => _kept.GetOrAdd((folder, root), key => new KeptDocuments(key.Folder, key.Root, files));
}
