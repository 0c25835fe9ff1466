using System.Collections.Concurrent;
using System.Collections.Immutable;
using Microsoft.AspNetCore.SignalR;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Record;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Vault;

namespace NeatCrate.App.Bundles;

/// <summary>A bundle at the top of a shelf, with what it holds.</summary>
/// <param name="ShelfId">The shelf.</param>
/// <param name="Path">Absolute path of the bundle: where it was, while its shelf is away.</param>
/// <param name="Entries">Its files.</param>
public sealed record KnownBundle(Guid ShelfId, string Path, IReadOnlyList<BagEntry> Entries);

/// <summary>
/// Knows which bundles stand at the top of shelves and what is in them, so that nobody has to wait for that. A bundle is read when it
/// appears, and what a shelf held is known while its drive is away, as long as the application runs.
/// </summary>
public sealed class BundleWatch(ShelfService shelves, RecordingGuard guard, IDurableFiles files, IHubContext<JobsHub> hub, TimeProvider time, ILogger<BundleWatch> logger) : EverySecond(time, logger)
{
    private const string Pattern = "*.zip";

    private readonly ConcurrentDictionary<Guid, ShelfBundles> _known = new();
    private readonly SemaphoreSlim _one = new(1);
    private long _revision;

    private sealed record ReadBundle(FileState State, KnownBundle Bundle);

    /// <summary>The archives at the top of a shelf, by path, when that folder was changed last.</summary>
    private sealed record ShelfBundles(DateTime Changed, ImmutableDictionary<string, ReadBundle> Read);

    /// <summary>Grows whenever a bundle came, went or changed.</summary>
    public long Revision => Interlocked.Read(ref _revision);

    /// <summary>All bundles that are known, those of a shelf that is away among them.</summary>
    public IEnumerable<KnownBundle> All => _known.Values.SelectMany(s => s.Read.Values).Select(r => r.Bundle).Where(b => b.Entries.Count > 0);

    /// <summary>Looks at once, not within a second.</summary>
    public Task LookNow(CancellationToken cancel) => Look(cancel);

    /// <inheritdoc/>
    public override void Dispose()
    {
        _one.Dispose();
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override async Task Look(CancellationToken cancel)
    {
        // The disk belongs to the take.
        if (guard.What is not null)
        {
            return;
        }
        await _one.WaitAsync(cancel);
        try
        {
            var holding = shelves.All().Where(s => s.Kind != ShelfKind.Vault).ToList();
            var changed = holding.Where(s => s.IsConnected).Count(s => HasNews(s, cancel)) + _known.Keys.Except(holding.Select(s => s.Id)).Count(id => _known.TryRemove(id, out _));
            if (changed > 0)
            {
                Interlocked.Increment(ref _revision);
                await hub.Clients.All.SendAsync("shelves", CancellationToken.None);
            }
        }
        finally
        {
            _one.Release();
        }
    }

    /// <summary>Looks at one shelf; what it refuses, or takes along as it leaves, must not keep the look from the others.</summary>
    private bool HasNews(Shelf shelf, CancellationToken cancel)
    {
        try
        {
            return TakeIn(shelf, cancel);
        }
        catch (Exception e) when (FaultException.Of(e, shelf.Root) is not null)
        {
            // What was known of it stays; it is looked at again in a second.
            return false;
        }
    }

    /// <returns>True where it holds something else than before.</returns>
    private bool TakeIn(Shelf shelf, CancellationToken cancel)
    {
        if (FileFacts.Of(shelf.Root) is not { Kind: EntryKind.Folder, ModifiedUtc: var changed })
        {
            return false;
        }
        var before = _known.GetValueOrDefault(shelf.Id);
        // Nothing came or went in a folder that did not change; what is known of may have been written anew.
        var paths = before is not null && before.Changed == changed ? before.Read.Keys : Directory.EnumerateFiles(shelf.Root, Pattern);
        var now = ImmutableDictionary.CreateBuilder<string, ReadBundle>(StringComparer.Ordinal);
        foreach (var path in paths)
        {
            cancel.ThrowIfCancellationRequested();
            if (FileFacts.Of(path) is { IsRegular: true } facts)
            {
                var state = new FileState(facts.Bytes, facts.ModifiedUtc);
                now[path] = before?.Read.GetValueOrDefault(path) is { } known && known.State == state ? known : new ReadBundle(state, new KnownBundle(shelf.Id, path, BagSource.Read(path, files)));
            }
        }
        _known[shelf.Id] = new ShelfBundles(changed, now.ToImmutable());
        return before is null ? now.Count > 0 : now.Count != before.Read.Count || now.Any(n => !ReferenceEquals(before.Read.GetValueOrDefault(n.Key), n.Value));
    }
}
