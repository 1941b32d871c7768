using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Preparing;

/// <summary>One thing a person did to a character while preparing it.</summary>
public abstract record DraftStep;

/// <summary>A joint plays a role from now on, and no other.</summary>
/// <param name="Joint">Its name in the file; null where nothing plays the role.</param>
public sealed record RoleStep(BodyRole Role, string? Joint) : DraftStep;

/// <summary>The other side gets the roles of this one, on the joints that mirror its own.</summary>
/// <param name="From">'L' or 'R'.</param>
public sealed record MirrorStep(char From) : DraftStep;

/// <summary>Which side is which was said by a person, where nothing about the rig tells it.</summary>
/// <param name="Swapped">The other way round than it was taken to be.</param>
public sealed record SidesStep(bool Swapped) : DraftStep;

/// <summary>A remedy of the rest check is taken.</summary>
/// <param name="And">Another that is taken with it, as both arms are.</param>
public sealed record RemedyStep(RestRemedy Remedy, RestRemedy? And = null) : DraftStep;

/// <summary>A stroke of a brush over the skin's weights, and its mirror image where it is painted on both sides.</summary>
/// <param name="Bone">By its name in the file.</param>
/// <param name="Path">Vertices of the skin that the brush went over.</param>
/// <param name="Radius">Of the brush, metres as the file stands.</param>
/// <param name="Strength">0 to 1.</param>
/// <param name="Other">The bone of the mirror image; null where it has none.</param>
/// <param name="OtherPath">Vertices of the mirror image.</param>
public sealed record WeightStep(
    WeightBrush Brush,
    string Bone,
    IReadOnlyList<int> Path,
    float Radius,
    float Strength,
    string? Other,
    IReadOnlyList<int> OtherPath
) : DraftStep
{
    /// <summary>Vertices of one stroke at the most.</summary>
    public const int Longest = 400;

    /// <inheritdoc/>
    public bool Equals(WeightStep? other) =>
        other is not null
        && (Brush, Bone, Radius, Strength, Other) == (other.Brush, other.Bone, other.Radius, other.Strength, other.Other)
        && Path.SequenceEqual(other.Path)
        && OtherPath.SequenceEqual(other.OtherPath);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Brush, Bone, Radius, Strength, Other, Path.Count);
}

/// <summary>The whole character is so many times as large.</summary>
public sealed record SizeStep(double Factor) : DraftStep;

/// <summary>A mesh of the file is left out, or taken in again.</summary>
/// <param name="Mesh">Its name in the file.</param>
public sealed record MeshStep(string Mesh, bool On) : DraftStep;
