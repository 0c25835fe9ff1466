using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>Reading a file that something else is made from: what fails is told of that file, and of no other.</summary>
internal static class SourceReading
{
    /// <summary>Reads what one call gives.</summary>
    /// <exception cref="FaultException">The file ends there, or the drive does not give it; <see cref="Fault.IsOfSource"/> holds.</exception>
    public static int ReadSource(this SourceFile source, string path, Span<byte> buffer, long offset)
    {
        int count;
        try
        {
            count = source.Read(buffer, offset);
        }
        catch (FaultException e)
        {
            throw OfSource(e, path);
        }
        return count > 0 ? count : throw new FaultException(FaultCode.SourceTooShort, path);
    }

    /// <summary>The same failure, told of a file that is to be read.</summary>
    public static FaultException OfSource(FaultException cause, string path) => cause.Fault.IsOfSource ? cause : new FaultException(
        new Fault(cause.Fault.Code == FaultCode.NotThere ? FaultCode.SourceGone : FaultCode.SourceUnreadable) { Path = path, Detail = cause.Fault.Detail }, cause);
}
