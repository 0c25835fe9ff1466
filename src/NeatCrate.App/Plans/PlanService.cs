using System.Collections.Concurrent;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.Core.Plans;

namespace NeatCrate.App.Plans;

/// <summary>Plans that were shown to somebody. Only what was shown can be applied.</summary>
public sealed class PlanService(Runner runner, IAsker asker)
{
    private const int MostKept = 200;

    private readonly ConcurrentDictionary<Guid, Plan> _plans = new();
    private readonly ConcurrentQueue<Guid> _order = new();

    /// <summary>Keeps a plan until it is applied or pushed out by newer ones, with what stands in its way now.</summary>
    public Plan Keep(Plan plan)
    {
        ArgumentNullException.ThrowIfNull(plan);
        var kept = runner.Checked(plan with { By = plan.By ?? asker.Now });
        _plans[plan.Id] = kept;
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
