namespace Eidolon.Storage.Model;

/// <summary>A file kept beside the database by its content: a film, an export, a figure. Rows are small; the bytes are streamed.</summary>
public sealed class Blob
{
    public int Id { get; set; }

    /// <summary>SHA-256 of the bytes, hexadecimal; also the name of the file.</summary>
    public required string Hash { get; set; }

    public long Length { get; set; }
}
