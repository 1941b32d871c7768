using System.Numerics;

namespace Eidolon.Core.Markers;

/// <summary>A prop known by its markers: their places in the prop's own frame, whose origin is the pivot, metres.</summary>
public sealed record RigidBody
{
    /// <exception cref="RefusedException">Fewer than three markers, markers on one line, or two at one place.</exception>
    public RigidBody(string name, IReadOnlyList<Vector3> markers)
    {
        if (markers.Count < 3)
        {
            throw new RefusedException($"a prop wants three markers or more; {markers.Count} chosen");
        }

        for (var a = 0; a < markers.Count; a++)
        {
            for (var b = 0; b < a; b++)
            {
                if (!(Vector3.Distance(markers[a], markers[b]) > 0.008f))
                {
                    throw new RefusedException($"markers {b + 1} and {a + 1} are nearer than 8 mm to each other and cannot be told apart");
                }
            }
        }

        if (Flatness(markers) < 0.008f)
        {
            throw new RefusedException("the markers lie on one line: the prop's turn about it cannot be seen; add one beside it");
        }

        (Name, Markers) = (name, markers);
    }

    /// <summary>What it is called.</summary>
    public string Name { get; init; }

    /// <summary>In the prop's frame, metres.</summary>
    public IReadOnlyList<Vector3> Markers { get; }

    /// <summary>Made of places in the world: the pivot is their middle, the axes are the world's.</summary>
    public static RigidBody FromWorld(string name, IReadOnlyList<Vector3> places)
    {
        var middle = places.Count == 0 ? default : places.Aggregate(Vector3.Zero, (s, p) => s + p) / places.Count;
        return new RigidBody(name, [.. places.Select(p => p - middle)]);
    }

    /// <summary>The same prop with its pivot moved and turned within its own frame.</summary>
    public RigidBody WithPivot(Vector3 move, Quaternion turn)
    {
        var back = Quaternion.Conjugate(Quaternion.Normalize(turn));
        return new RigidBody(Name, [.. Markers.Select(m => Vector3.Transform(m - move, back))]);
    }

    /// <summary>How far the marker farthest from the best line through two of them stands off it.</summary>
    private static float Flatness(IReadOnlyList<Vector3> markers)
    {
        var a = markers[0];
        var b = markers.MaxBy(m => (m - a).LengthSquared());
        var d = Vector3.Normalize(b - a);
        return markers.Max(m => Vector3.Cross(m - a, d).Length());
    }
}
