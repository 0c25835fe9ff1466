using System.Collections.Immutable;
using NeatCrate.Core.Documents;

namespace NeatCrate.Core.Inventory;

/// <summary>What a sample instrument in a session folder plays.</summary>
/// <param name="Samples">Absolute paths of its samples, there or not.</param>
/// <param name="PointsElsewhere">True where it may play more than is understood, or cannot be read.</param>
internal sealed record InstrumentSamples(ImmutableArray<string> Samples, bool PointsElsewhere)
{
    /// <summary>Reads an instrument. One that cannot be read may play anything that stands beside it.</summary>
    public static InstrumentSamples Read(string path)
    {
        try
        {
            var (format, folder) = (SfzInstrument.Format, Path.GetDirectoryName(path)!);
            var instrument = format.Read(ReadableFile.ReadAll(path, SfzInstrument.MostBytes));
            return new InstrumentSamples([.. instrument.References.SelectMany(r => format.Candidates(r.TargetUrl, folder)).Distinct()], instrument.MayPointElsewhere);
        }
        catch (Exception e) when (FaultException.Of(e, path) is not null)
        {
            return new InstrumentSamples([], true);
        }
    }
}
