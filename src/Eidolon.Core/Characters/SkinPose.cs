using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>A figure's skins in another pose, as any viewer draws them: linear blend skinning, helpers with their share.</summary>
public static class SkinPose
{
    /// <summary>Places and normals of every skin.</summary>
    /// <param name="turns">World-axis turns of single joints on top of the rest pose, parents before children.</param>
    public static (Vector3[][] Positions, Vector3[][] Normals, Vector3[] Joints) Of(
        Skeleton s,
        SkinnedFigure figure,
        IReadOnlyDictionary<int, Quaternion> turns
    )
    {
        var n = s.Count + figure.Helpers.Count;
        var (at, turn) = (new Vector3[n], new Quaternion[n]);
        Quaternion Own(int j) => turns.TryGetValue(j, out var q) ? q : Quaternion.Identity;
        for (var j = 0; j < s.Count; j++)
        {
            var p = s.Parents[j];
            var above = p < 0 ? Quaternion.Identity : turn[p];
            turn[j] = Quaternion.Normalize(above * Own(j));
            at[j] = p < 0 ? s.RestPositions[j] : at[p] + Vector3.Transform(s.RestPositions[j] - s.RestPositions[p], above);
        }

        for (var h = 0; h < figure.Helpers.Count; h++)
        {
            var (joint, share) = (figure.Helpers[h].Joint, figure.Helpers[h].Share);
            at[s.Count + h] = at[joint];
            turn[s.Count + h] = turn[s.Parents[joint]] * Rotations.Slerp(Quaternion.Identity, Own(joint), share);
        }

        Vector3 Rest(int bone) => s.RestPositions[bone < s.Count ? bone : figure.Helpers[bone - s.Count].Joint];
        Vector3 Blend(SkinnedMesh skin, int v, Func<int, Vector3> by)
        {
            var (b, w) = (skin.Joints[v], skin.Weights[v]);
            return (by(b.A) * w.X) + (by(b.B) * w.Y) + (by(b.C) * w.Z) + (by(b.D) * w.W);
        }

        Vector3[][] Each(Func<SkinnedMesh, int, Vector3> of) =>
            [.. figure.Skins.Select(skin => Enumerable.Range(0, skin.Positions.Length).Select(v => of(skin, v)).ToArray())];
        return (
            Each((skin, v) => Blend(skin, v, b => at[b] + Vector3.Transform(skin.Positions[v] - Rest(b), turn[b]))),
            Each((skin, v) => Vector3.Normalize(Blend(skin, v, b => Vector3.Transform(skin.Normals[v], turn[b])))),
            at[..s.Count]
        );
    }
}
