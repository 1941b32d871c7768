using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Eidolon.Storage;

/// <summary>Lets the migration tool create a context.</summary>
internal sealed class EidolonDbFactory : IDesignTimeDbContextFactory<EidolonDb>
{
    public EidolonDb CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<EidolonDb>().UseSqlite("Data Source=design.db").Options);
}
