using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Characters.Binding;

/// <summary>How a figure stands: which way it faces, where its middle is, how tall it is.</summary>
/// <param name="Turn">About the vertical: from the mesh's own axes to facing +Z.</param>
/// <param name="Foot">The point of the floor under its middle, in the mesh's axes.</param>
/// <param name="Tall">From floor to the highest vertex, metres.</param>
/// <param name="Likeness">How much of its left is also on its right, 0 to 1.</param>
internal sealed record MeshStance(Quaternion Turn, Vector3 Foot, float Tall, float Likeness)
{
    /// <summary>The mesh standing on the origin and facing +Z.</summary>
    public BareMesh Stand(BareMesh mesh) =>
        mesh with
        {
            Positions = Array.ConvertAll(mesh.Positions, p => Vector3.Transform(p - Foot, Turn)),
        };

    /// <summary>A place of the standing mesh back in the mesh's own axes.</summary>
    public Vector3 Back(Vector3 place) => Vector3.Transform(place, Quaternion.Conjugate(Turn)) + Foot;

    /// <summary>
    /// Left and right are found by the plane that mirrors the surface best; the front is where the feet point.
    /// </summary>
    /// <exception cref="RefusedException">It does not stand upright.</exception>
    public static MeshStance Of(BareMesh mesh)
    {
        var (low, high) = BodyVolume.Bounds(mesh.Positions);
        var tall = high.Y - low.Y;
        if (!(tall > 1e-4f) || MathF.Max(high.X - low.X, high.Z - low.Z) > 1.5f * tall)
        {
            throw new RefusedException("the mesh does not stand upright: it is wider than it is tall; turn it so that Y is up");
        }

        var samples = Samples(mesh, 6000);
        var (heading, middle, likeness) = Mirror(samples, tall, low.Y);
        var turn = Rotations.AboutAxis(1, heading);
        var foot = new Vector3(middle.X, low.Y, middle.Z);
        var stance = new MeshStance(turn, foot, tall, likeness);
        return Ahead(Array.ConvertAll(samples, p => Vector3.Transform(p - foot, turn)), tall) >= 0
            ? stance
            : stance with
            {
                Turn = Rotations.AboutAxis(1, heading + Math.PI),
            };
    }

    /// <summary>Points spread evenly over the surface.</summary>
    private static Vector3[] Samples(BareMesh mesh, int count)
    {
        var areas = new double[mesh.Triangles.Length / 3];
        double sum = 0;
        for (var t = 0; t < areas.Length; t++)
        {
            var (a, b, c) = Corners(mesh, t);
            sum += Vector3.Cross(b - a, c - a).Length() / 2;
            areas[t] = sum;
        }

        if (!(sum > 0))
        {
            throw new RefusedException("the mesh has no surface");
        }

        var random = new Random(1);
        var points = new Vector3[count];
        for (var k = 0; k < count; k++)
        {
            var at = Array.BinarySearch(areas, (k + .5) / count * sum);
            var (a, b, c) = Corners(mesh, Math.Min(areas.Length - 1, at < 0 ? ~at : at));
            var (u, v) = (random.NextSingle(), random.NextSingle());
            (u, v) = u + v > 1 ? (1 - u, 1 - v) : (u, v);
            points[k] = a + ((b - a) * u) + ((c - a) * v);
        }

        return points;
    }

    private static (Vector3 A, Vector3 B, Vector3 C) Corners(BareMesh mesh, int t) =>
        (mesh.Positions[mesh.Triangles[3 * t]], mesh.Positions[mesh.Triangles[(3 * t) + 1]], mesh.Positions[mesh.Triangles[(3 * t) + 2]]);

    /// <summary>The heading whose mirror plane lays most of the surface on itself, and the middle on that plane.</summary>
    private static (double Heading, Vector3 Middle, float Likeness) Mirror(Vector3[] points, float tall, float floor)
    {
        var cell = tall / 60;
        // A body is mirrored about the plane that holds the long axis of none of its limbs: of the two good planes the one that is
        // wider across is the plane between left and right.
        var best = (Heading: 0.0, Middle: Vector3.Zero, Likeness: 0f, Score: double.NegativeInfinity);
        void Try(double heading)
        {
            var turn = Rotations.AboutAxis(1, heading);
            var turned = Array.ConvertAll(points, p => Vector3.Transform(p, turn));
            var (left, right) = (turned.Min(p => p.X), turned.Max(p => p.X));
            var across = right - left;
            var deep = turned.Max(p => p.Z) - turned.Min(p => p.Z);
            var z = turned.Average(p => p.Z);
            var mean = turned.Average(p => p.X);
            foreach (var x in new[] { (left + right) / 2, mean })
            {
                var filled = new HashSet<(int, int, int)>();
                foreach (var p in turned)
                {
                    filled.Add(Key(p.X - x, p.Y - floor, p.Z, cell));
                }

                var alike =
                    turned.Count(p =>
                    {
                        var (i, j, k) = Key(x - p.X, p.Y - floor, p.Z, cell);
                        return filled.Contains((i, j, k))
                            || filled.Contains((i - 1, j, k))
                            || filled.Contains((i + 1, j, k))
                            || filled.Contains((i, j, k - 1))
                            || filled.Contains((i, j, k + 1));
                    }) / (float)points.Length;
                var score = alike + (0.4 * across / (across + deep));
                if (score > best.Score)
                {
                    var middle = Vector3.Transform(new Vector3(x, 0, z), Quaternion.Conjugate(turn));
                    best = (heading, middle, alike, score);
                }
            }
        }

        for (var k = 0; k < 36; k++)
        {
            Try(k * Math.PI / 36);
        }

        foreach (var fine in new[] { 2.5, 1.2, .6, .3 })
        {
            var around = best.Heading;
            Try(around - (fine * Math.PI / 180));
            Try(around + (fine * Math.PI / 180));
        }

        return (best.Heading, best.Middle, best.Likeness);
    }

    private static (int X, int Y, int Z) Key(float x, float y, float z, float cell) =>
        ((int)MathF.Floor(x / cell), (int)MathF.Floor(y / cell), (int)MathF.Floor(z / cell));

    /// <summary>How far the feet reach ahead of the legs, metres; negative behind.</summary>
    private static float Ahead(Vector3[] standing, float tall)
    {
        float Mean(float from, float to)
        {
            var slab = standing.Where(p => p.Y >= from * tall && p.Y < to * tall).ToList();
            return slab.Count == 0 ? 0 : (slab.Min(p => p.Z) + slab.Max(p => p.Z)) / 2;
        }

        return Mean(0, .03f) - Mean(.08f, .16f);
    }
}
