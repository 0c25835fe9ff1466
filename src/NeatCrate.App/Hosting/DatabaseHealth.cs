using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using NeatCrate.Store;

namespace NeatCrate.App.Hosting;

/// <summary>Healthy while the database answers and its drive has room for the next entry of the journal.</summary>
public sealed class DatabaseHealth(StoreFiles files) : IHealthCheck
{
    private const long LeastFreeBytes = 20_000_000;

    /// <inheritdoc/>
    public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default)
    {
        try
        {
            await using var db = files.NewDb();
            await db.Settings.AsNoTracking().AnyAsync(cancellationToken);
            return new DriveInfo(files.Folder).AvailableFreeSpace < LeastFreeBytes
                ? HealthCheckResult.Degraded("The drive of the data folder is nearly full.")
                : HealthCheckResult.Healthy();
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return HealthCheckResult.Unhealthy("The database does not answer.", e);
        }
    }
}
