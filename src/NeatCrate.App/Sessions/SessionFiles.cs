using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Listing;
using NeatCrate.Core.Record;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>The files of the known sessions as lists show them: each look brings the session's inventory up to date first.</summary>
public sealed class SessionFiles(SessionService sessions, KeptSessions kept, CopyInChoices choices)
{
    /// <summary>What the files of a session come to.</summary>
    /// <param name="row">The session.</param>
    /// <param name="known">All known shelves.</param>
    /// <param name="cancel">Stops the look.</param>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public (SessionInventory Inventory, SessionOverview Overview) Overview(SessionRow row, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        sessions.Show(row, known, cancel);
        return kept.ListingOf(row).Overview(Outside(row, known));
    }

    /// <summary>The same among those of many sessions, which the watch keeps up to date.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public (SessionInventory Inventory, SessionOverview Overview) Glance(SessionRow row, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        sessions.Glance(row, known, cancel);
        return kept.ListingOf(row).Overview(Outside(row, known));
    }

    /// <summary>The files of a session, brought up to date, with what tells which outside files are left out.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public (SessionListing Listing, OutsideFiles Outside) Look(SessionRow row, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        sessions.Show(row, known, cancel);
        return (kept.ListingOf(row), Outside(row, known));
    }

    /// <summary>The takes of a session as it was last looked at, in no order.</summary>
    public IReadOnlyList<Take> Takes(SessionRow row, IReadOnlyList<Shelf> known) => [.. kept.ListingOf(row).All(Outside(row, known)).Select(f => f.Take).OfType<Take>()];

    /// <summary>Paths of a session's outside files that come from a place.</summary>
    /// <exception cref="IOException">The folder cannot be reached.</exception>
    public IReadOnlyList<string> From(string place, SessionRow row, IReadOnlyList<Shelf> known, CancellationToken cancel)
    {
        var (listing, outside) = Look(row, known, cancel);
        return [.. listing.All(outside).Where(f => f.Origin?.Place == place).Select(f => f.File.Path)];
    }

    private OutsideFiles Outside(SessionRow row, IReadOnlyList<Shelf> known) => choices.OutsideOf(row.Id, sessions, known);
}
