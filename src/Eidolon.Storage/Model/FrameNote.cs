namespace Eidolon.Storage.Model;

/// <summary>What a person wrote down about a frame of a take: what was adjusted there, and why.</summary>
public sealed class FrameNote
{
    /// <summary>Characters of a note at the most.</summary>
    public const int Longest = 500;

    public int Id { get; set; }

    public int TakeId { get; set; }

    /// <summary>Of the recording, from its first frame, which is 0: a trim does not move it.</summary>
    public int Frame { get; set; }

    public required string Text { get; set; }

    public DateTime CreatedUtc { get; set; }
}
