using Microsoft.EntityFrameworkCore;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Store;

namespace NeatCrate.App.Sessions;

/// <summary>Keeps count of the takes that were recorded with a mirror, and of those that are not whole there.</summary>
public sealed class MirrorLedger(StoreFiles files)
{
    /// <summary>Writes down what is about to be recorded with a mirror.</summary>
    public void Begin(Guid sessionId, Guid shelfId, IEnumerable<MirrorGap> takes)
    {
        takes = [.. takes];
        using var db = files.NewDb();
        // What had this place before is gone from there, since the name was free.
        var paths = takes.Select(t => t.Mirror).ToList();
        db.Mirrors.Where(m => EF.Parameter(paths).Contains(m.MirrorPath)).ExecuteDelete();
        db.Mirrors.AddRange(takes.Select(t => new MirrorRow
        {
            Id = Guid.NewGuid(),
            SessionId = sessionId,
            ShelfId = shelfId,
            TakePath = t.Take,
            MirrorPath = t.Mirror,
            State = MirroredState.Recording,
        }));
        db.SaveChanges();
    }

    /// <summary>Reads takes and mirrors that were being recorded, and writes down which are the same byte for byte.</summary>
    /// <param name="sessionId">The session; null for all, as after a restart.</param>
    /// <param name="cancel">Stops between two reads.</param>
    /// <returns>Names of the takes that are not whole on their mirror.</returns>
    public IReadOnlyList<string> Verify(Guid? sessionId, CancellationToken cancel)
    {
        using var db = files.NewDb();
        var open = db.Mirrors.Where(m => m.State == MirroredState.Recording && (sessionId == null || m.SessionId == sessionId)).ToList();
        foreach (var row in open)
        {
            row.State = IsSame(row, cancel) ? MirroredState.Verified : MirroredState.Gap;
            db.SaveChanges();
        }
        return [.. open.Where(m => m.State == MirroredState.Gap).Select(m => Path.GetFileName(m.TakePath))];
    }

    /// <summary>Takes of a session that are not whole on their mirror, with the mirror's shelf.</summary>
    public IReadOnlyList<(Guid ShelfId, MirrorGap Gap)> Gaps(Guid sessionId)
    {
        using var db = files.NewDb();
        return [.. db.Mirrors.AsNoTracking().Where(m => m.SessionId == sessionId && m.State == MirroredState.Gap).AsEnumerable()
            .Select(m => (m.ShelfId, new MirrorGap(m.TakePath, m.MirrorPath)))];
    }

    /// <summary>Sessions with takes that are not whole on a mirror's shelf, and how many.</summary>
    public IReadOnlyList<(Guid SessionId, int Gaps)> GapsOn(Guid shelfId)
    {
        using var db = files.NewDb();
        return [.. db.Mirrors.AsNoTracking().Where(m => m.ShelfId == shelfId && m.State == MirroredState.Gap).AsEnumerable()
            .GroupBy(m => m.SessionId).Select(g => (g.Key, g.Count()))];
    }

    /// <summary>How many takes of a session stand on their mirror, read back and the same.</summary>
    public int Verified(Guid sessionId)
    {
        using var db = files.NewDb();
        return db.Mirrors.Count(m => m.SessionId == sessionId && m.State == MirroredState.Verified);
    }

    /// <summary>What follows from a plan that was applied: copies to the mirror make gaps good, and taking them back opens them again.</summary>
    public void After(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        Set(plan.Steps.OfType<MakeFileStep>().Where(s => s.IsCopy), MirroredState.Verified);
        Set(plan.Steps.Where(s => s.Removes is not null), MirroredState.Gap);
    }

    private void Set(IEnumerable<PlanStep> steps, MirroredState state)
    {
        var paths = steps.Select(s => s.Destination).ToList();
        if (paths.Count > 0)
        {
            using var db = files.NewDb();
            db.Mirrors.Where(m => EF.Parameter(paths).Contains(m.MirrorPath)).ExecuteUpdate(m => m.SetProperty(r => r.State, state));
        }
    }

    private static bool IsSame(MirrorRow row, CancellationToken cancel)
    {
        try
        {
            return ByteIdentity.OfFile(row.TakePath, null, cancel) == ByteIdentity.OfFile(row.MirrorPath, null, cancel);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // What cannot be read back is not mirrored; the gap says so.
            return false;
        }
    }
}
