using System.Numerics;
using Eidolon.Core.Faces;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>Gives a skin its face shapes; what no shape moves is split off, so that it carries none.</summary>
internal static class FaceSkins
{
    /// <summary>Less than this is no movement, metres.</summary>
    private const float Least = 2e-4f;

    public static IEnumerable<SkinnedMesh> Split(SkinnedMesh skin, Func<string, Vector3, Vector3> moves)
    {
        var any = new bool[skin.Positions.Length];
        foreach (var unit in FaceUnits.Names)
        {
            for (var v = 0; v < any.Length; v++)
            {
                any[v] |= moves(unit, skin.Positions[v]).Length() > Least;
            }
        }

        var still = skin.Only((a, b, c) => !any[a] && !any[b] && !any[c]);
        if (still.Triangles.Length > 0)
        {
            yield return still;
        }

        var face = skin.Only((a, b, c) => any[a] || any[b] || any[c]);
        if (face.Triangles.Length == 0)
        {
            yield break;
        }

        yield return face with
        {
            Shapes = FaceUnits.Names.ToDictionary(
                unit => unit,
                unit => face.Positions.Select(p => moves(unit, p) is var m && m.Length() > Least ? m : Vector3.Zero).ToArray()
            ),
        };
    }
}
