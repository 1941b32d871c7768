using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Results;

/// <summary>What is known of results, in a file of its own that can be thrown away at any time: everything in it can be made again.</summary>
public sealed class ResultDb(DbContextOptions<ResultDb> options) : DbContext(options)
{
    public DbSet<NoteRow> Notes => Set<NoteRow>();

    public DbSet<ValueRow> Values => Set<ValueRow>();

    public DbSet<ValuePartRow> Parts => Set<ValuePartRow>();

    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        modelBuilder.Entity<NoteRow>().HasKey(n => n.Key);
        modelBuilder.Entity<ValueRow>().HasKey(v => v.Content);
        modelBuilder.Entity<ValueRow>().HasIndex(v => v.UsedUtc);
        modelBuilder.Entity<ValuePartRow>().HasKey(p => new { p.Content, p.Place });
        modelBuilder.Entity<ValuePartRow>().HasIndex(p => p.Part);
        modelBuilder.Entity<ValuePartRow>().HasOne<ValueRow>().WithMany().HasForeignKey(p => p.Content);
    }
}

/// <summary>One run of an operation: what it was made of, what came out, what it said.</summary>
public sealed class NoteRow
{
    public required string Key { get; set; }

    /// <summary>Content of the value; empty when it was refused.</summary>
    public required string Content { get; set; }

    public required string Summary { get; set; }

    public required string Report { get; set; }

    public double Seconds { get; set; }

    public string? Refusal { get; set; }
}

/// <summary>A stored value: its head; the samples are its parts.</summary>
public sealed class ValueRow
{
    public required string Content { get; set; }

    public required byte[] Head { get; set; }

    public DateTime UsedUtc { get; set; }
}

/// <summary>One part of a value, by the hash of its bytes; alike parts are stored once.</summary>
public sealed class ValuePartRow
{
    public required string Content { get; set; }

    public int Place { get; set; }

    public required string Part { get; set; }

    public long Bytes { get; set; }
}
