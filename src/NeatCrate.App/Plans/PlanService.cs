using System.Collections.Concurrent;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Plans;

namespace NeatCrate.App.Plans;

/// <summary>Plans that were shown to somebody. Only what was shown can be applied.</summary>
public sealed class PlanService(Runner runner, IAsker asker)
{
    // Of some hundred sessions that are planned at once each has its own.
    private const int MostKept = 1000;

    private readonly ConcurrentDictionary<Guid, Plan> _plans = new();
    private readonly ConcurrentQueue<Guid> _order = new();

    // Where bundles are to come that were planned lately, packed by now or not.
    private readonly ConcurrentQueue<string> _promised = new();

    /// <summary>Absolute paths that bundles which were planned lately are to have: two that are planned in one second must not have one name.</summary>
    public IReadOnlyCollection<string> PromisedBundles => _promised;

    /// <summary>Keeps a plan until it is applied or pushed out by newer ones, with what stands in its way now.</summary>
    public Plan Keep(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var kept = runner.Checked(plan with { By = plan.By ?? asker.Now });
        _plans[plan.Id] = kept;
        foreach (var bundle in kept.Steps.OfType<IPackingStep>())
        {
            _promised.Enqueue(bundle.Destination);
        }
        while (_promised.Count > MostKept && _promised.TryDequeue(out _))
        {
            // The oldest was packed, or is wanted no more.
        }
        _order.Enqueue(plan.Id);
        while (_plans.Count > MostKept && _order.TryDequeue(out var oldest))
        {
            _plans.TryRemove(oldest, out _);
        }
        return kept;
    }

    /// <summary>A plan that was kept.</summary>
    /// <exception cref="NotKnownException">It was applied, pushed out, or never made.</exception>
    public Plan Get(Guid id) => _plans.TryGetValue(id, out var plan) ? plan : throw new NotKnownException("This plan is no longer at hand. Make the plan again.");

    /// <summary>Gives a plan away to be applied; it cannot be applied twice.</summary>
    /// <exception cref="NotKnownException">It was applied, pushed out, or never made.</exception>
    public Plan Release(Guid id) => _plans.TryRemove(id, out var plan) ? plan : throw new NotKnownException("This plan is no longer at hand. Make the plan again.");
}
