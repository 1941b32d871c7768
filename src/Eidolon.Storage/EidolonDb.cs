using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>The database of a studio: metadata as rows, samples as checked chunks.</summary>
public sealed class EidolonDb(DbContextOptions<EidolonDb> options) : DbContext(options)
{
    public DbSet<Production> Productions => Set<Production>();

    public DbSet<ShootDay> Days => Set<ShootDay>();

    public DbSet<Take> Takes => Set<Take>();

    public DbSet<LedgerRow> Ledger => Set<LedgerRow>();

    public DbSet<SampleChunk> Chunks => Set<SampleChunk>();

    public DbSet<CachedResult> Results => Set<CachedResult>();

    public DbSet<PerformerRow> Performers => Set<PerformerRow>();

    public DbSet<CharacterRow> Characters => Set<CharacterRow>();

    public DbSet<HandOff> HandOffs => Set<HandOff>();

    public DbSet<JobRow> Jobs => Set<JobRow>();

    public DbSet<CalibrationRow> Calibrations => Set<CalibrationRow>();

    public DbSet<PropRow> Props => Set<PropRow>();

    public DbSet<MarkerSetRow> MarkerSets => Set<MarkerSetRow>();

    public DbSet<RecipeRow> Recipes => Set<RecipeRow>();

    public DbSet<LedgerVersion> Versions => Set<LedgerVersion>();

    public DbSet<IgnoredFinding> Ignored => Set<IgnoredFinding>();

    public DbSet<WitnessVideo> Videos => Set<WitnessVideo>();

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<Take>().HasIndex(t => t.Name).IsUnique();
        modelBuilder.Entity<Take>().HasOne(t => t.Day).WithMany(d => d.Takes).HasForeignKey(t => t.ShootDayId);
        modelBuilder.Entity<Take>().HasMany(t => t.Ledger).WithOne().HasForeignKey(l => l.TakeId).OnDelete(DeleteBehavior.Cascade);
        modelBuilder.Entity<Take>().HasMany(t => t.HandOffs).WithOne().HasForeignKey(h => h.TakeId).OnDelete(DeleteBehavior.Cascade);
        modelBuilder.Entity<LedgerRow>().HasIndex(l => new { l.TakeId, l.Position });
        modelBuilder
            .Entity<SampleChunk>()
            .HasIndex(c => new
            {
                c.TakeId,
                c.Stream,
                c.FirstFrame,
            })
            .IsUnique();
        modelBuilder.Entity<WitnessVideo>().HasIndex(v => v.TakeId);
        modelBuilder.Entity<LedgerVersion>().HasIndex(v => new { v.TakeId, v.Name }).IsUnique();
        modelBuilder.Entity<IgnoredFinding>().HasIndex(v => v.TakeId);
        modelBuilder.Entity<PropRow>().HasIndex(p => new { p.ProductionId, p.Name }).IsUnique();
        modelBuilder.Entity<MarkerSetRow>().HasIndex(p => new { p.ProductionId, p.Name }).IsUnique();
        modelBuilder.Entity<CachedResult>().HasKey(c => c.Hash);
        modelBuilder.Entity<JobRow>().HasIndex(j => j.State);
    }
}
