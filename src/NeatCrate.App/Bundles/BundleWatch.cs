using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Bundles;

/// <summary>
/// Knows which bundles stand on shelves and what is in them, so that nobody has to wait for that. At the top of a shelf one is read
/// within a second after it appears, further down once a scan saw it. What a shelf held is known while its drive is away.
/// </summary>
public sealed class BundleWatch(
    ShelfService shelves, Catalogue catalogue, KeptBundles kept, RecordingGuard guard, IDurableFiles files, IHubContext<JobsHub> hub, TimeProvider time, ILogger<BundleWatch> logger) : EverySecond(time, logger)
{
    private const string Extension = ".zip";
    private const int Many = 10_000;

    private static readonly EnumerationOptions Top = new() { MatchCasing = MatchCasing.CaseInsensitive, IgnoreInaccessible = false, AttributesToSkip = FileAttributes.None };

    // Read when they are first asked for, not when the application starts.
    private readonly Lazy<ConcurrentDictionary<Guid, ShelfBundles>> _known = new(() => new(
        kept.All().GroupBy(b => b.ShelfId).Select(s => KeyValuePair.Create(s.Key, new ShelfBundles(default, s.ToImmutableDictionary(b => b.Path, StringComparer.Ordinal))))));

    private ILookup<Guid, (string Path, FileState State)>? _scanned;
    private long _catalogue;
    private long _revision;

    /// <summary>The archives of a shelf by path from its top, and when that folder was changed last.</summary>
    private sealed record ShelfBundles(DateTime Changed, ImmutableDictionary<string, KeptBundle> Read);

    /// <summary>Grows whenever a bundle came, went or changed.</summary>
    public long Revision => Interlocked.Read(ref _revision);

    /// <summary>All bundles that are known, those of a shelf that is away among them.</summary>
    public IEnumerable<KeptBundle> All => _known.Value.Values.SelectMany(s => s.Read.Values).Where(b => b.Entries.Count > 0);

    /// <inheritdoc/>
    protected override async Task Look(CancellationToken cancel)
    {
        // The disk belongs to the take.
        if (guard.What is not null)
        {
            return;
        }
        if (catalogue.Revision is var revision && (_scanned is null || revision != _catalogue))
        {
            (_scanned, _catalogue) = (catalogue.Archives(), revision);
        }
        var (holding, scanned) = (shelves.All().Where(s => s.Kind != ShelfKind.Vault).ToList(), _scanned);
        var changed = holding.Where(s => s.IsConnected).Count(s => HasNews(s, scanned[s.Id], cancel)) + _known.Value.Keys.Except(holding.Select(s => s.Id)).Count(Forget);
        if (changed > 0)
        {
            Interlocked.Increment(ref _revision);
            await hub.Clients.All.SendAsync("shelves", CancellationToken.None);
        }
    }

    private bool Forget(Guid shelfId)
    {
        if (!_known.Value.TryRemove(shelfId, out var known))
        {
            return false;
        }
        kept.Write(shelfId, [], [.. known.Read.Keys]);
        return true;
    }

    /// <summary>Looks at one shelf; what it refuses, or takes along as it leaves, must not keep the look from the others.</summary>
    private bool HasNews(Shelf shelf, IEnumerable<(string Path, FileState State)> scanned, CancellationToken cancel)
    {
        try
        {
            return TakeIn(shelf, scanned, cancel);
        }
        catch (Exception e) when (FaultException.Of(e, shelf.Root) is not null)
        {
            // What was known of it stays; it is looked at again in a second.
            return false;
        }
    }

    /// <returns>True where it holds something else than before.</returns>
    private bool TakeIn(Shelf shelf, IEnumerable<(string Path, FileState State)> scanned, CancellationToken cancel)
    {
        if (FileFacts.Of(shelf.Root) is not { Kind: EntryKind.Folder, ModifiedUtc: var changed })
        {
            return false;
        }
        var before = _known.Value.GetValueOrDefault(shelf.Id) ?? new ShelfBundles(default, ImmutableDictionary<string, KeptBundle>.Empty.WithComparers(StringComparer.Ordinal));
        // Nothing came or went in a folder that did not change; what is known of it may have been written anew.
        var top = before.Changed == changed ? before.Read.Keys.Where(IsAtTop) : Directory.EnumerateFiles(shelf.Root, "*" + Extension, Top).Select(p => Path.GetFileName(p));
        var there = top.Select(p => (Path: p, State: FileFacts.Of(Path.Combine(shelf.Root, p)) is { IsRegular: true } facts ? new FileState(facts.Bytes, facts.ModifiedUtc) : null))
            .Concat(scanned.Where(a => !IsAtTop(a.Path)).Select(a => (a.Path, (FileState?)a.State)));
        var now = ImmutableDictionary.CreateBuilder<string, KeptBundle>(StringComparer.Ordinal);
        foreach (var (path, state) in there)
        {
            cancel.ThrowIfCancellationRequested();
            if (state is not null)
            {
                now[path] = before.Read.GetValueOrDefault(path) is { } known && known.State == state ? known : new KeptBundle(shelf.Id, path, state, Read(Path.Combine(shelf.Root, path)));
            }
        }
        var read = now.Values.Where(b => !ReferenceEquals(before.Read.GetValueOrDefault(b.Path), b)).ToList();
        var gone = before.Read.Keys.Where(p => !now.ContainsKey(p)).ToList();
        if (read.Count + gone.Count > 0)
        {
            kept.Write(shelf.Id, read, gone);
        }
        _known.Value[shelf.Id] = new ShelfBundles(changed, now.ToImmutable());
        return read.Count + gone.Count > 0;
    }

    private BagListing Read(string path)
    {
        var listing = new BagListing(BagReader.Read(path, files));
        if (listing.Count > Many)
        {
            // What was needed for reading it is many times what is kept, and nothing else asks for so much for a long time.
            GC.Collect(GC.MaxGeneration, GCCollectionMode.Aggressive, blocking: true, compacting: true);
        }
        return listing;
    }

    private static bool IsAtTop(string path) => !path.Contains('/', StringComparison.Ordinal);
}
