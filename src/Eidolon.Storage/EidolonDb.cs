using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>The database of a studio: metadata as rows, samples as checked chunks. Results that can be made again are not here (see Results).</summary>
public sealed class EidolonDb(DbContextOptions<EidolonDb> options) : DbContext(options)
{
    /// <summary>Names are unique among what is in use.</summary>
    private const string InUse = "\"AsideUtc\" IS NULL";

    /// <summary>Rows that are written once: what was recorded, and the calibrations it was recorded with.</summary>
    private static readonly HashSet<Type> InsertOnly = [typeof(SampleChunk), typeof(CalibrationRow)];

    public DbSet<Production> Productions => Set<Production>();

    public DbSet<ShootDay> Days => Set<ShootDay>();

    public DbSet<Take> Takes => Set<Take>();

    public DbSet<TakePart> Parts => Set<TakePart>();

    public DbSet<Subject> Subjects => Set<Subject>();

    /// <summary>Subjects that can be chosen: all but those put aside.</summary>
    public IQueryable<Subject> Shelf => Subjects.Where(s => s.AsideUtc == null);

    public DbSet<SubjectVersion> SubjectVersions => Set<SubjectVersion>();

    public DbSet<SampleStream> Streams => Set<SampleStream>();

    public DbSet<SampleChunk> Chunks => Set<SampleChunk>();

    public DbSet<Scene> Scenes => Set<Scene>();

    public DbSet<NodeRow> Nodes => Set<NodeRow>();

    public DbSet<EntryRow> Entries => Set<EntryRow>();

    public DbSet<TakenBackRow> TakenBack => Set<TakenBackRow>();

    public DbSet<ChangeRow> Changes => Set<ChangeRow>();

    public DbSet<Blob> Blobs => Set<Blob>();

    public DbSet<SetPiece> SetPieces => Set<SetPiece>();

    public DbSet<HandOff> HandOffs => Set<HandOff>();

    public DbSet<OutboxRow> Outbox => Set<OutboxRow>();

    public DbSet<JobRow> Jobs => Set<JobRow>();

    public DbSet<CalibrationRow> Calibrations => Set<CalibrationRow>();

    public DbSet<MarkerSetRow> MarkerSets => Set<MarkerSetRow>();

    public DbSet<RecipeRow> Recipes => Set<RecipeRow>();

    public DbSet<LedgerVersion> Versions => Set<LedgerVersion>();

    public DbSet<FrameNote> FrameNotes => Set<FrameNote>();

    public DbSet<IgnoredFinding> Ignored => Set<IgnoredFinding>();

    public DbSet<ClipRow> Clips => Set<ClipRow>();

    public DbSet<WitnessVideo> Videos => Set<WitnessVideo>();

    /// <exception cref="InvalidOperationException">Something recorded would be changed: that is a fault of ours, and nothing is saved.</exception>
    public override int SaveChanges(bool acceptAllChangesOnSuccess)
    {
        RefuseChangesOfRaw();
        return base.SaveChanges(acceptAllChangesOnSuccess);
    }

    /// <inheritdoc cref="SaveChanges(bool)"/>
    public override Task<int> SaveChangesAsync(bool acceptAllChangesOnSuccess, CancellationToken cancellationToken = default)
    {
        RefuseChangesOfRaw();
        return base.SaveChangesAsync(acceptAllChangesOnSuccess, cancellationToken);
    }

    private void RefuseChangesOfRaw()
    {
        if (
            ChangeTracker.Entries().FirstOrDefault(e => e.State == EntityState.Modified && InsertOnly.Contains(e.Metadata.ClrType)) is { } e
        )
        {
            throw new InvalidOperationException($"{e.Metadata.ClrType.Name} is written once and never changed");
        }
    }

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        OfTakes(modelBuilder);
        OfLedgers(modelBuilder);
        modelBuilder
            .Entity<Subject>()
            .HasIndex(s => new
            {
                s.ProductionId,
                s.Kind,
                s.Name,
            })
            .IsUnique()
            .HasFilter(InUse);
        modelBuilder.Entity<RecipeRow>().HasQueryFilter(r => r.AsideUtc == null);
        modelBuilder.Entity<Subject>().HasMany(s => s.Versions).WithOne().HasForeignKey(v => v.SubjectId);
        modelBuilder.Entity<SubjectVersion>().HasIndex(v => new { v.SubjectId, v.Number }).IsUnique();
        modelBuilder.Entity<Blob>().HasIndex(b => b.Hash).IsUnique();
        modelBuilder.Entity<MarkerSetRow>().HasIndex(p => new { p.ProductionId, p.Name }).IsUnique();
        modelBuilder.Entity<OutboxRow>().HasKey(o => o.Key);
        modelBuilder.Entity<JobRow>().HasIndex(j => j.State);
        modelBuilder.Entity<JobRow>().HasIndex(j => j.TakeId);
    }

    private static void OfTakes(ModelBuilder b)
    {
        // What was put aside is not there, but for whoever asks for it. A performer put aside is still in the takes they played in.
        b.Entity<Take>().HasQueryFilter(t => t.AsideUtc == null);
        b.Entity<ShootDay>().HasQueryFilter(d => d.AsideUtc == null);
        b.Entity<Take>().HasIndex(t => new { t.ProductionId, t.Name }).IsUnique().HasFilter(InUse);
        b.Entity<Take>().HasOne(t => t.Day).WithMany(d => d.Takes).HasForeignKey(t => t.ShootDayId);
        b.Entity<Take>().HasMany(t => t.Parts).WithOne().HasForeignKey(p => p.TakeId);
        b.Entity<Take>().HasMany(t => t.Streams).WithOne().HasForeignKey(s => s.TakeId);
        b.Entity<Take>().HasMany(t => t.Nodes).WithOne().HasForeignKey(n => n.TakeId).OnDelete(DeleteBehavior.Cascade);
        b.Entity<Take>().HasMany(t => t.SetPieces).WithOne().HasForeignKey(p => p.TakeId);
        b.Entity<Take>().Ignore(t => t.Performers).Ignore(t => t.Props);
        b.Entity<Take>().Property(t => t.Revision).IsConcurrencyToken();
        b.Entity<TakePart>().HasIndex(p => new { p.TakeId, p.SubjectId }).IsUnique();
        b.Entity<SampleStream>().HasIndex(s => new { s.TakeId, s.Name }).IsUnique();
        b.Entity<SampleChunk>().HasIndex(c => new { c.StreamId, c.FirstFrame }).IsUnique();
        b.Entity<SampleChunk>().HasOne<SampleStream>().WithMany().HasForeignKey(c => c.StreamId);
        b.Entity<WitnessVideo>().HasIndex(v => v.TakeId);
        b.Entity<ClipRow>().HasIndex(c => new { c.ProductionId, c.SubjectId });
        b.Entity<ClipRow>().HasIndex(c => c.NodeId);
        b.Entity<ClipRow>().HasQueryFilter(c => c.AsideUtc == null);
        b.Entity<IgnoredFinding>().HasIndex(v => v.TakeId);
        b.Entity<FrameNote>().HasIndex(n => n.TakeId);
    }

    private static void OfLedgers(ModelBuilder b)
    {
        b.Entity<NodeRow>()
            .HasIndex(n => new
            {
                n.TakeId,
                n.SceneId,
                n.Kind,
                n.SubjectId,
                n.TargetId,
                n.Source,
            })
            .IsUnique();
        b.Entity<NodeRow>().HasQueryFilter(n => n.AsideUtc == null);
        b.Entity<NodeRow>().HasMany(n => n.Entries).WithOne().HasForeignKey(e => e.NodeId);
        b.Entity<EntryRow>().HasIndex(e => new { e.NodeId, e.Position }).IsUnique();
        b.Entity<Scene>().HasMany(s => s.Nodes).WithOne().HasForeignKey(n => n.SceneId).OnDelete(DeleteBehavior.Cascade);
        b.Entity<Scene>().HasMany(s => s.HandOffs).WithOne().HasForeignKey(h => h.SceneId);
        b.Entity<Scene>().HasIndex(s => s.TakeId).IsUnique();
        b.Entity<Scene>().HasQueryFilter(s => s.AsideUtc == null);
        b.Entity<Scene>().HasIndex(s => new { s.ProductionId, s.Name }).IsUnique().HasFilter(InUse);
        b.Entity<Scene>().Property(s => s.Revision).IsConcurrencyToken();
        b.Entity<TakenBackRow>().HasIndex(t => t.Owner);
        b.Entity<ChangeRow>()
            .HasIndex(c => new
            {
                c.Owner,
                c.Seen,
                c.Intent,
            })
            .IsUnique();
        b.Entity<LedgerVersion>().HasIndex(v => new { v.TakeId, v.Name }).IsUnique();
    }
}
