using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Binding;

/// <summary>Places a standard skeleton in a mesh of a person who stands upright, arms anywhere between hanging and level.</summary>
/// <remarks>
/// Tips are places farther from the neck through the body than everything near them; a limb's middle line is made of the middles of
/// equally far places (after Verroust and Lazarus, "Extracting skeletal curves from 3D scattered data", 2000). Where clothes hide a joint the
/// average proportions of <see cref="Anthropometry"/> say where it is, and the result says so.
/// </remarks>
public static class SkeletonPlacer
{
    /// <summary>Cells of the grid to the figure's height.</summary>
    internal const int CellsTall = 190;

    /// <param name="given">Joints whose places are known, metres, in the mesh's own axes; where all are, the shape is not asked.</param>
    /// <exception cref="RefusedException">It does not stand upright, or has not the limbs of a person.</exception>
    public static PlacedSkeleton Place(BareMesh mesh, IReadOnlyDictionary<BodyRole, Vector3>? given = null)
    {
        if (given is not null)
        {
            return PlacedSkeleton.Joints.All(j => given.ContainsKey(j.Role)) ? PlacedSkeleton.Of(given) : Place(mesh).With(given);
        }

        var stance = MeshStance.Of(mesh);
        var standing = stance.Stand(mesh);
        var body = new PlacedBody(new BodyVolume(standing, stance.Tall / CellsTall), stance.Tall);
        var (places, ends) = body.Find();
        if (stance.Likeness > .8f)
        {
            Even(places);
            Even(ends);
        }

        Dictionary<BodyRole, Vector3> Back(Dictionary<BodyRole, Vector3> of) => of.ToDictionary(p => p.Key, p => stance.Back(p.Value));
        return new PlacedSkeleton(Back(places), Back(ends), body.Doubts);
    }

    /// <summary>A figure that is alike left and right gets a skeleton that is.</summary>
    private static void Even(Dictionary<BodyRole, Vector3> places)
    {
        var mirror = new Vector3(-1, 1, 1);
        foreach (var left in places.Keys.Where(r => BodyRoles.Side(r) == 'L').ToList())
        {
            var right = BodyRoles.Mirror(left);
            var mean = (places[left] + (places[right] * mirror)) / 2;
            (places[left], places[right]) = (mean, mean * mirror);
        }

        foreach (var middle in places.Keys.Where(r => BodyRoles.Side(r) == 'C').ToList())
        {
            places[middle] = places[middle] with { X = 0 };
        }
    }
}
