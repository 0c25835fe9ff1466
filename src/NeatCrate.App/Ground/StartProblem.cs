using Microsoft.AspNetCore.Connections;
using NeatCrate.App.Words;
using NeatCrate.Store;

namespace NeatCrate.App.Ground;

/// <summary>Why the application cannot start, in a sentence with what to do.</summary>
public static class StartProblem
{
    /// <summary>The sentence for an error at the start; null for one that is a mistake in the program.</summary>
    public static string? Of(Exception error, AppOptions options)
    {
        ArgumentNullException.ThrowIfNull(error);
        ArgumentNullException.ThrowIfNull(options);
        if (error is IOException { InnerException: AddressInUseException } or AddressInUseException)
        {
            return Sentences.Of(new Fault(FaultCode.PortInUse) { Count = options.Port });
        }
        return (StoreFiles.FaultOf(error, Path.Combine(options.DataFolder, "neat-crate.db")) ?? FaultException.Of(error, options.DataFolder)) is { } fault ? Sentences.Of(fault) : null;
    }
}
