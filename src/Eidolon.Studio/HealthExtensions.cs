using Eidolon.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Diagnostics.HealthChecks;

namespace Eidolon.Studio;

/// <summary>The studio is healthy when its database answers.</summary>
internal static class HealthExtensions
{
    public static IHealthChecksBuilder AddDbContextCheckLite(this IHealthChecksBuilder builder) =>
        builder.Add(
            new HealthCheckRegistration(
                "database",
                s => new DatabaseCheck(s.GetRequiredService<IDbContextFactory<EidolonDb>>()),
                null,
                null
            )
        );

    private sealed class DatabaseCheck(IDbContextFactory<EidolonDb> factory) : IHealthCheck
    {
        public async Task<HealthCheckResult> CheckHealthAsync(HealthCheckContext context, CancellationToken cancellationToken = default)
        {
            await using var db = await factory.CreateDbContextAsync(cancellationToken);
            return await db.Database.CanConnectAsync(cancellationToken) ? HealthCheckResult.Healthy() : HealthCheckResult.Unhealthy();
        }
    }
}
