using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Clipping;

/// <summary>A figure of a scene with what of it may not go into another.</summary>
/// <param name="Name">Said with what is found; empty where there is one figure only.</param>
/// <param name="Places">World places of all joints, frame after frame.</param>
/// <param name="Turns">Their world turns.</param>
public sealed record EncounterBody(string Name, Motion Motion, BodyVolumes Volumes, Vector3[] Places, Quaternion[] Turns)
{
    /// <summary>Who performed it; 0 where that is not told. Two of one performer are a choice between them: they stand in one place and do not meet.</summary>
    public int By { get; init; }

    /// <summary>A figure with its joints' places worked out.</summary>
    /// <param name="volumes">By average proportions when null.</param>
    public static EncounterBody Of(string name, Motion motion, BodyVolumes? volumes)
    {
        var turns = new Quaternion[motion.Rotations.Length];
        var places = ForwardKinematics.WorldPositions(motion, turns);
        return new EncounterBody(name, motion, volumes ?? BodyVolumes.OfProportions(motion.Skeleton), places, turns);
    }
}

/// <summary>A prop of a scene as a box in its own axes.</summary>
/// <param name="Low">Its corner, metres.</param>
/// <param name="High">The opposite corner.</param>
public sealed record EncounterProp(string Name, PropPlaces Places, Vector3 Low, Vector3 High)
{
    /// <summary>Markers stand off what they are stuck on, metres.</summary>
    private const float StandOff = 0.008f;

    /// <summary>Narrower than this share of its length it is a pole.</summary>
    private const float Thin = 0.25f;

    /// <summary>As large as its markers have it.</summary>
    public static EncounterProp Of(string name, PropPlaces places, RigidBody body)
    {
        var (low, high) = (body.Markers.Aggregate(Vector3.Min), body.Markers.Aggregate(Vector3.Max));
        var inset = Vector3.Min(new Vector3(StandOff), (high - low) / 4);
        return new EncounterProp(name, places, low + inset, high - inset);
    }

    /// <summary>A pole: its markers say how long it is, but not how thick, and what would be told of it would not be true.</summary>
    public bool IsThin
    {
        get
        {
            var size = High - Low;
            var sorted = new[] { size.X, size.Y, size.Z }.Order().ToArray();
            return sorted[1] < Thin * sorted[2];
        }
    }

    /// <summary>Distance of a place in the prop's own axes from it, metres; below 0 inside.</summary>
    public float Signed(Vector3 p)
    {
        var outside = Vector3.Max(Vector3.Max(Low - p, p - High), Vector3.Zero);
        if (outside != Vector3.Zero)
        {
            return outside.Length();
        }

        var near = Vector3.Min(p - Low, High - p);
        return -Math.Min(near.X, Math.Min(near.Y, near.Z));
    }
}

/// <summary>Figures that go into each other, or into a prop, over a whole motion. Hands may: they hold.</summary>
public static class EncounterMeasure
{
    /// <summary>Volumes stand for skins: less than this is not told, metres.</summary>
    private const float Unseen = 0.015f;

    /// <summary>Farther apart than this at the hips nothing meets, metres.</summary>
    private const float Apart = 2.6f;

    /// <summary>Of a forearm only the part by the elbow counts where a prop is held: the wrist lies on it.</summary>
    private const float HeldArm = 0.6f;

    /// <summary>Frames with less between them are one Finding, seconds.</summary>
    private const double Join = 0.25;

    /// <summary>As deep as this it must be mended, millimetres.</summary>
    private const double Deep = 60;

    /// <summary>Findings of every pair of figures, and of every figure with every prop that is no pole; frames are the motions'.</summary>
    /// <returns>By the first figure's place in the list.</returns>
    public static IReadOnlyList<(int Body, Finding Finding)> Findings(
        IReadOnlyList<EncounterBody> bodies,
        IReadOnlyList<EncounterProp> props,
        CancellationToken cancel = default
    )
    {
        var found = new List<(int, Finding)>();
        for (var a = 0; a < bodies.Count; a++)
        {
            cancel.ThrowIfCancellationRequested();
            for (var b = a + 1; b < bodies.Count; b++)
            {
                if (bodies[a].By != 0 && bodies[a].By == bodies[b].By)
                {
                    continue;
                }

                var own = a;
                found.AddRange(Ranges(bodies[a], bodies[b].Name, Between(bodies[a], bodies[b])).Select(f => (own, f)));
            }

            foreach (var prop in props.Where(p => !p.IsThin))
            {
                var own = a;
                found.AddRange(Ranges(bodies[a], $"the {prop.Name.ToLowerInvariant()}", Inside(bodies[a], prop)).Select(f => (own, f)));
            }
        }

        return found;
    }

    /// <summary>Of each frame the deepest pair of parts.</summary>
    private static IEnumerable<(int Frame, string Part, string Other, float Depth)> Between(EncounterBody a, EncounterBody b)
    {
        var frames = Math.Min(a.Motion.FrameCount, b.Motion.FrameCount);
        var (n, m) = (a.Motion.Skeleton.Count, b.Motion.Skeleton.Count);
        var (hipA, hipB) = (a.Motion.Skeleton.IndexOf(BodyRole.Pelvis), b.Motion.Skeleton.IndexOf(BodyRole.Pelvis));
        for (var f = 0; f < frames; f++)
        {
            if (Vector3.Distance(a.Places[(f * n) + hipA], b.Places[(f * m) + hipB]) > Apart)
            {
                continue;
            }

            var best = (Frame: f, Part: string.Empty, Other: string.Empty, Depth: Unseen);
            foreach (var u in a.Volumes.All)
            {
                var (a1, a2) = Ends(u, a, f);
                foreach (var v in b.Volumes.All)
                {
                    // Hands that touch are meant to.
                    if (IsHand(u) && IsHand(v))
                    {
                        continue;
                    }

                    var (b1, b2) = Ends(v, b, f);
                    var depth = u.Radius + v.Radius - Segments.Distance(a1, a2, b1, b2);
                    best = depth > best.Depth ? (f, u.Part, v.Part, depth) : best;
                }
            }

            if (best.Part.Length > 0)
            {
                yield return best;
            }
        }
    }

    private static IEnumerable<(int Frame, string Part, string Other, float Depth)> Inside(EncounterBody body, EncounterProp prop)
    {
        var frames = Math.Min(body.Motion.FrameCount, prop.Places.FrameCount);
        for (var f = 0; f < frames; f++)
        {
            if (!float.IsFinite(prop.Places.Positions[f].X))
            {
                continue;
            }

            var turn = Quaternion.Conjugate(prop.Places.Turns[f]);
            var best = (Frame: f, Part: string.Empty, Other: string.Empty, Depth: Unseen);
            foreach (var v in body.Volumes.All.Where(v => !IsHand(v)))
            {
                var (from, to) = Ends(v, body, f);
                to = v.Part.StartsWith("Forearm", StringComparison.Ordinal) ? Vector3.Lerp(from, to, HeldArm) : to;
                for (var k = 0; k <= Steps; k++)
                {
                    var at = Vector3.Transform(Vector3.Lerp(from, to, k / (float)Steps) - prop.Places.Positions[f], turn);
                    var depth = v.Radius - prop.Signed(at);
                    best = depth > best.Depth ? (f, v.Part, string.Empty, depth) : best;
                }
            }

            if (best.Part.Length > 0)
            {
                yield return best;
            }
        }
    }

    private const int Steps = 6;

    private static bool IsHand(BodyVolume v) => v.Part.StartsWith("Hand", StringComparison.Ordinal);

    private static (Vector3, Vector3) Ends(BodyVolume v, EncounterBody body, int frame)
    {
        var n = body.Motion.Skeleton.Count;
        return ClippingMeasure.Ends(v, body.Places.AsSpan(frame * n, n), body.Turns.AsSpan(frame * n, n));
    }

    private static IEnumerable<Finding> Ranges(
        EncounterBody body,
        string other,
        IEnumerable<(int Frame, string Part, string Other, float Depth)> frames
    )
    {
        var join = Math.Max(1, (int)(Join * body.Motion.FrameRate));
        foreach (var run in frames.GroupBy(f => (f.Part, f.Other)))
        {
            var all = run.OrderBy(f => f.Frame).ToList();
            for (var i = 0; i < all.Count; )
            {
                var k = i;
                while (k + 1 < all.Count && all[k + 1].Frame - all[k].Frame <= join)
                {
                    k++;
                }

                var deepest = all[i..(k + 1)].MaxBy(f => f.Depth);
                var mm = deepest.Depth * 1000;
                var where = run.Key.Other.Length == 0 ? other : $"{other}'s {run.Key.Other}";
                yield return new Finding(
                    "encounter",
                    all[i].Frame,
                    all[k].Frame,
                    mm > Deep ? Severity.MustFix : Severity.Look,
                    body.Name.Length > 0 ? $"{body.Name}, {run.Key.Part}" : run.Key.Part,
                    $"{mm:0} mm into {where}, deepest at {deepest.Frame}",
                    mm
                )
                {
                    Other = where,
                };
                i = k + 1;
            }
        }
    }
}
