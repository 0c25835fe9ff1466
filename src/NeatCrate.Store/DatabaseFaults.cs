using System.Data.Common;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace NeatCrate.Store;

/// <summary>What the database refuses is told as a fault with a code, whoever asked it: a full drive is that, and no mistake in the program.</summary>
internal sealed class DatabaseFaults : DbCommandInterceptor
{
    /// <inheritdoc/>
    public override void CommandFailed(DbCommand command, CommandErrorEventData eventData)
    {
        if (StoreFiles.FaultOf(eventData.Exception, command.Connection?.DataSource) is { } fault)
        {
            throw new FaultException(fault, eventData.Exception);
        }
    }

    /// <inheritdoc/>
    public override Task CommandFailedAsync(DbCommand command, CommandErrorEventData eventData, CancellationToken cancellationToken = default)
    {
        CommandFailed(command, eventData);
        return Task.CompletedTask;
    }
}
