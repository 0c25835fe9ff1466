using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Tests.Plans;

/// <summary>Short ways to ask the runner.</summary>
internal static class Engine
{
    /// <summary>Why a plan cannot be applied now.</summary>
    public static IReadOnlyList<Fault> Refusals(Plan plan, IFileUsers? users = null) => new Runner(new MemoryJournal(), new DurableFiles(), users).Refusals(plan);

    /// <summary>The codes of faults.</summary>
    public static IEnumerable<FaultCode> Codes(this IEnumerable<Fault> faults) => faults.Select(f => f.Code);
}
