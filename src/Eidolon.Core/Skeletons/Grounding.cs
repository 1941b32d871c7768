using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>Puts a body whose root lies anywhere onto the floor.</summary>
public static class Grounding
{
    /// <summary>Toe joints and soles lie so low above the floor, metres; outside of this the root's own height says nothing.</summary>
    private const float Deepest = -0.03f,
        Highest = 0.12f,
        Sole = 0.01f;

    /// <summary>The same body with its lowest joint or end just above y = 0, where it was not near the floor already.</summary>
    public static Skeleton OnFloor(Skeleton body)
    {
        var low = float.PositiveInfinity;
        for (var j = 0; j < body.Count; j++)
        {
            var end = body[j].EndSite is { } e ? Vector3.Transform(e, body.RestRotations[j]).Y : 0;
            low = MathF.Min(low, body.RestPositions[j].Y + MathF.Min(0, end));
        }

        return low is > Deepest and < Highest
            ? body
            : new Skeleton(body.Joints.Select(j => j.Parent >= 0 ? j : j with { Offset = j.Offset + new Vector3(0, Sole - low, 0) }));
    }
}
