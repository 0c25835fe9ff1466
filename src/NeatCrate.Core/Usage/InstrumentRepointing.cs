using NeatCrate.Core.Documents;

namespace NeatCrate.Core.Usage;

/// <summary>What a sample instrument must say once it, or its samples, stand elsewhere.</summary>
public static class InstrumentRepointing
{
    /// <summary>True for a sample instrument, by its name.</summary>
    public static bool IsInstrument(string path) => SfzInstrument.Format.Recognises(Path.GetFileName(path));

    /// <summary>Reads an instrument.</summary>
    /// <param name="path">Absolute path.</param>
    /// <exception cref="FaultException">It cannot be read.</exception>
    public static SfzInstrument Read(string path) => DocumentFormats.Read<SfzInstrument>(path, ReadableFile.ReadAll(path, SfzInstrument.MostBytes));

    /// <summary>Reads an instrument; null for one that cannot be read, of which nothing is known.</summary>
    /// <param name="path">Absolute path.</param>
    public static SfzInstrument? ReadOrNull(string path)
    {
        try
        {
            return Read(path);
        }
        catch (Exception e) when (FaultException.Of(e, path) is not null)
        {
            return null;
        }
    }

    /// <summary>The absolute paths of its samples, there or not.</summary>
    /// <param name="instrument">The instrument.</param>
    /// <param name="folder">Absolute path of the folder that it stands in.</param>
    public static IReadOnlyList<string> Samples(SfzInstrument instrument, string folder)
    {
        ArgumentNullException.ThrowIfNull(instrument);
        return [.. instrument.References.SelectMany(r => SfzInstrument.Format.Candidates(r.TargetUrl, folder)).Distinct(StringComparer.Ordinal)];
    }

    /// <summary>Points an instrument at its samples from where it stands then. It is read again, and has to play exactly those.</summary>
    /// <param name="path">Absolute path of the instrument as it is.</param>
    /// <param name="folderThen">Absolute path of the folder that it stands in then.</param>
    /// <param name="then">Where a sample stands then, by its absolute path now; null to leave what is written.</param>
    /// <returns>Its bytes then; null where they are as they are.</returns>
    /// <exception cref="FaultException">It cannot be read, or cannot be pointed at one of them (<see cref="FaultCode.InstrumentNotRepointed"/>).</exception>
    public static byte[]? Of(string path, string folderThen, Func<string, string?> then)
    {
        ArgumentNullException.ThrowIfNull(then);
        var folder = Path.GetDirectoryName(path)!;
        var instrument = Read(path);
        string? Wanted(string url) => SfzInstrument.Format.Candidates(url, folder) is [var sample, ..] ? then(sample) : null;
        string LeadsTo(string url) => SfzInstrument.Format.Candidates(url, folderThen) is [var sample, ..] ? sample : url;
        List<string> wanted = [.. instrument.References.Select(r => Wanted(r.TargetUrl) ?? LeadsTo(r.TargetUrl))];
        instrument.Repoint(r => Wanted(r.TargetUrl) is { } place && place != LeadsTo(r.TargetUrl) ? new NewReference(SfzInstrument.Format.PointerTo(place, folderThen)) : null);
        var after = instrument.ToBytes();
        var again = DocumentFormats.Read<SfzInstrument>(path, after);
        return !again.References.Select(r => LeadsTo(r.TargetUrl)).SequenceEqual(wanted, StringComparer.Ordinal)
            ? throw new FaultException(FaultCode.InstrumentNotRepointed, path)
            : again.References.Select(r => r.TargetUrl).SequenceEqual(Read(path).References.Select(r => r.TargetUrl), StringComparer.Ordinal) ? null : after;
    }
}
