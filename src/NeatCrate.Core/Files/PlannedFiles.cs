using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>Opening files that are to be read as a plan saw them.</summary>
public static class PlannedFiles
{
    /// <summary>Opens a file that is to be read as the plan saw it.</summary>
    /// <exception cref="FaultException">It cannot be opened, or is not what the plan saw; <see cref="Fault.IsOfSource"/> holds.</exception>
    public static SourceFile OpenAsPlanned(this IDurableFiles files, string path, FileState expected)
    {
        ArgumentNullException.ThrowIfNull(files);
        SourceFile source;
        try
        {
            source = files.OpenSource(path);
        }
        catch (FaultException e)
        {
            throw SourceReading.OfSource(e, path);
        }
        try
        {
            source.RequireUnchanged(path, expected);
            return source;
        }
        catch
        {
            source.Dispose();
            throw;
        }
    }

    /// <summary>Refuses a source that is not what the plan saw.</summary>
    public static void RequireUnchanged(this SourceFile source, string path, FileState expected)
    {
        ArgumentNullException.ThrowIfNull(source);
        var facts = source.Facts;
        if (new FileState(facts.Bytes, facts.ModifiedUtc) != expected)
        {
            throw new FaultException(FaultCode.SourceChanged, path);
        }
    }
}
