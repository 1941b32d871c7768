using System.Text.Json;

namespace Eidolon.Studio.Services;

/// <summary>What a file was made of, and how it compares with what it was meant to hold.</summary>
/// <param name="Content">Content hash of the motion it was cut from, 32 hexadecimal digits.</param>
/// <param name="Inputs">Content hashes of what that was made of.</param>
/// <param name="SubjectVersion">Version of the character, performer or prop in the library; 0 where it has none.</param>
/// <param name="ReadBack">Every channel of the file against what was meant.</param>
/// <param name="CannotHold">Channels of the motion that the format, or this character's mesh, has no place for.</param>
public sealed record HandOffReceipt(
    string Content,
    IReadOnlyList<string> Inputs,
    int SubjectVersion,
    ReadBack ReadBack,
    IReadOnlyList<string> CannotHold
)
{
    public string ToJson() => JsonSerializer.Serialize(this);

    /// <summary>Null for a file that was written before receipts said so much.</summary>
    public static HandOffReceipt? Of(string json) => json.Length == 0 ? null : JsonSerializer.Deserialize<HandOffReceipt>(json);
}
