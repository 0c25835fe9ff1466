using System.Data.Common;
using NeatCrate.App.Words;
using NeatCrate.Core.Backups;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>What a kept save changed against the one before it of the same document.</summary>
/// <param name="Key">The save.</param>
/// <param name="Came">Clips that came; null where nothing was before it, or it cannot be read.</param>
/// <param name="Went">Clips that went.</param>
/// <param name="Otherwise">Clips that were moved, or play another part.</param>
/// <param name="Sentence">The same in a sentence, or why it is not known.</param>
public sealed record SaveChangeView(string Key, int? Came, int? Went, int? Otherwise, string Sentence);

/// <summary>What each kept save changed. Two of them never differ anew: it is worked out once, and remembered for good.</summary>
public sealed class SaveChanges(StoredSettings settings, VersionService versions, BackupViewMaker maker)
{
    /// <summary>So many are told at once.</summary>
    public const int MostAtOnce = 100;

    private const string TheFirst = "The first that is kept.";

    private sealed record Known(int Came, int Went, int Otherwise, string Sentence);

    /// <summary>What saves changed, from one on, in the order in which they were saved.</summary>
    /// <param name="row">The session.</param>
    /// <param name="from">Key of the first.</param>
    /// <param name="take">How many, at most <see cref="MostAtOnce"/>.</param>
    /// <param name="cancel">Stops it between two saves.</param>
    /// <exception cref="FaultException">The first is not there any more.</exception>
    public IReadOnlyList<SaveChangeView> Of(SessionRow row, string from, int take, CancellationToken cancel)
    {
        ArgumentNullException.ThrowIfNull(row);
        var first = versions.Get(row, from);
        var prefix = $"save change {row.Id} ";
        var known = settings.ReadAll<Known>(prefix);
        var lastOf = new Dictionary<string, SessionVersion>(StringComparer.Ordinal);
        var told = new List<SaveChangeView>();
        var isIn = false;
        foreach (var version in versions.Of(row).Where(v => v.Kind == VersionKind.Document).Reverse())
        {
            cancel.ThrowIfCancellationRequested();
            isIn |= version.Key == first.Key;
            var document = version.Document ?? "";
            if (isIn && told.Count < Math.Clamp(take, 0, MostAtOnce))
            {
                told.Add(lastOf.TryGetValue(document, out var before) ? Change(row, before, version, prefix, known, cancel) : new SaveChangeView(version.Key, null, null, null, TheFirst));
            }
            lastOf[document] = version;
        }
        return told;
    }

    private SaveChangeView Change(SessionRow row, SessionVersion before, SessionVersion version, string prefix, IReadOnlyDictionary<string, Known> known, CancellationToken cancel)
    {
        // A save has its name for itself and is written once; the sizes tell where something else stands there all the same.
        var key = $"{prefix}{before.Key} {before.State!.Kept.Bytes} {version.Key} {version.State!.Kept.Bytes}";
        if (known.GetValueOrDefault(key) is { } change)
        {
            return View(version, change);
        }
        try
        {
            var compared = maker.Compare(row, before, version, cancel);
            var clips = compared.Tracks.SelectMany(t => t.Clips).ToList();
            // Of what only names files it is known which came and which went.
            change = compared.IsByNames ? new Known(compared.Files.Count(f => f.IsNewlyUsed), compared.Files.Count(f => !f.IsNewlyUsed), 0, compared.Sentence) : new Known(
                clips.Count(c => c.Change == VersionChange.Added), clips.Count(c => c.Change == VersionChange.Gone), clips.Count(c => c.Change is VersionChange.Moved or VersionChange.Changed), compared.Sentence);
        }
        catch (Exception e) when (FaultException.Of(e) is { } fault)
        {
            // It may be read again once its drive is back: what failed is not remembered.
            return new SaveChangeView(version.Key, null, null, null, Sentences.Of(fault));
        }
        try
        {
            settings.Write(key, change);
        }
        catch (Exception e) when (e is DbException or FaultException)
        {
            // It is known now, and worked out once more when it is asked for again.
        }
        return View(version, change);
    }

    private static SaveChangeView View(SessionVersion version, Known change) => new(version.Key, change.Came, change.Went, change.Otherwise, change.Sentence);
}
