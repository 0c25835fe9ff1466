using System.Collections.Immutable;
using System.Globalization;

namespace NeatCrate.Core.Purge;

/// <summary>Tells of kept saves that do not count by choice, and will miss what goes: they are never changed, so nothing can point them elsewhere.</summary>
internal static class KeptSavesMissing
{
    /// <summary>The remark; null where kept saves count, or none plays what goes.</summary>
    /// <param name="world">What the judgement was made of.</param>
    /// <param name="going">Absolute paths of the files that go.</param>
    public static Fault? Of(PurgeWorld world, IEnumerable<string> going)
    {
        var missed = world.Counting.KeptSaves ? [] : going.Where(world.KeptSaves.Contains).ToList();
        return missed.Count == 0 ? null : new Fault(FaultCode.SavesMiss)
        {
            Count = missed.Count,
            Names = [.. missed.SelectMany(m => world.KeptSaves[m]).Distinct().OrderDescending().Select(Told)],
        };
    }

    /// <summary>When saves were made that play a file, as they are told of, the newest first.</summary>
    public static ImmutableArray<string> Saves(PurgeWorld world, string path) => [.. world.KeptSaves[path].Select(Told)];

    private static string Told(DateTime saved) => saved.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture);
}
