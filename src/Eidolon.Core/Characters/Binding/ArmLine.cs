using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>The joints of one arm, and the tip of its hand.</summary>
internal sealed record ArmLine(char Side, Vector3 Shoulder, Vector3 Elbow, Vector3 Wrist, Vector3 Tip)
{
    /// <summary>Shares of an arm's length from the tip of the hand, after <see cref="Skeletons.Anthropometry"/>.</summary>
    private const float WristShare = .095f / .415f,
        ElbowShare = (.095f + .148f) / .415f;

    /// <summary>The left and the right arm of a body.</summary>
    /// <param name="neck">The middle of the neck where it is thinnest.</param>
    /// <exception cref="RefusedException">An arm is missing, or not apart from the body.</exception>
    public static IEnumerable<ArmLine> Find(BodyVolume volume, Vector3 neck, float stature)
    {
        var start = volume.InnerCell(neck);
        var (away, _) = volume.Spread([(start, 0)]);
        foreach (var (side, sign) in new[] { ('L', 1), ('R', -1) })
        {
            yield return Along(volume, away, Outermost(volume, away, sign, stature), side, stature)
                ?? throw new RefusedException(
                    $"the mesh has no {(sign > 0 ? "left" : "right")} arm that is apart from its body: "
                        + "lift the arms off it, or say where the joints are"
                );
        }
    }

    /// <summary>The outermost of the places that are farther from the neck than everything near them.</summary>
    private static int Outermost(BodyVolume volume, float[] away, int sign, float stature)
    {
        var (best, at) = (0f, -1);
        var radius = .05f * stature;
        for (var c = 0; c < away.Length; c++)
        {
            if (!float.IsFinite(away[c]) || away[c] < .28f * stature)
            {
                continue;
            }

            var p = volume.Middle(c);
            if (p.X * sign > .10f * stature && p.Y > .32f * stature && MathF.Abs(p.X) > best && Farthest(volume, away, c, radius))
            {
                (best, at) = (MathF.Abs(p.X), c);
            }
        }

        return at;
    }

    /// <summary>True where nothing near, through the body, is farther away.</summary>
    private static bool Farthest(BodyVolume volume, float[] away, int cell, float radius)
    {
        var seen = new HashSet<int> { cell };
        var ring = new Queue<int>();
        ring.Enqueue(cell);
        var middle = volume.Middle(cell);
        while (ring.TryDequeue(out var c))
        {
            foreach (var n in volume.Neighbours(c))
            {
                if (away[n] > away[cell] + 1e-6f && Vector3.Distance(volume.Middle(n), middle) <= radius)
                {
                    return false;
                }

                if (Vector3.Distance(volume.Middle(n), middle) <= radius && seen.Add(n))
                {
                    ring.Enqueue(n);
                }
            }
        }

        return true;
    }

    private static ArmLine? Along(BodyVolume volume, float[] away, int tip, char side, float stature)
    {
        if (tip < 0)
        {
            return null;
        }

        // How far everything is from the tip; what is equally far is one cut across the arm.
        var (along, _) = volume.Spread([(tip, 0)]);
        var step = .012f * stature;
        var cuts = Cuts(volume, away, along, tip, step, stature);
        // The arm ends where its cuts grow and go on growing: they have reached the trunk. A sleeve's hem grows but once.
        var joined = Enumerable
            .Range(0, Math.Max(0, cuts.Count - 6))
            .FirstOrDefault(k => k * step > .22f * stature && Grows(k, 1.45f) && Grows(k + 3, 1.35f), -1);
        if (joined < 0)
        {
            return null;
        }

        bool Grows(int k, float by) => cuts[k + 3].Cells > by * cuts[k].Cells;
        var before = cuts[joined].Middle;
        var direction = Vector3.Normalize(cuts[Math.Max(0, joined - 10)].Middle - before);
        // A hanging arm meets the trunk at the armpit, below the shoulder; a level one beside it.
        var hangs = Math.Clamp(-direction.Y, 0, 1);
        var armpit = joined * step;
        var length = armpit + ((.020f + (.080f * hangs * hangs)) * stature);
        var shoulder = before - (direction * (length - armpit));
        Vector3 On(float distance)
        {
            var at = Math.Clamp(distance / step, 0, joined);
            var k = (int)at;
            return distance >= armpit
                ? Vector3.Lerp(before, shoulder, (distance - armpit) / MathF.Max(1e-6f, length - armpit))
                : Vector3.Lerp(cuts[k].Middle, cuts[Math.Min(k + 1, joined)].Middle, at - k);
        }

        return new ArmLine(side, shoulder, On(length * ElbowShare), On(length * WristShare), volume.Middle(tip));
    }

    /// <summary>Cuts across the arm from the tip towards the neck: their middles, and how many cells each has.</summary>
    private static List<(Vector3 Middle, int Cells)> Cuts(
        BodyVolume volume,
        float[] away,
        float[] along,
        int tip,
        float step,
        float stature
    )
    {
        var bands = new Dictionary<int, List<int>>();
        for (var c = 0; c < along.Length; c++)
        {
            if (along[c] < .75f * stature)
            {
                var band = (int)(along[c] / step);
                (bands.TryGetValue(band, out var list) ? list : bands[band] = []).Add(c);
            }
        }

        var cuts = new List<(Vector3, int)>();
        var here = tip;
        while (cuts.Count < (int)(.72f * stature / step))
        {
            // On towards the neck by the shortest way to the next band.
            var band = cuts.Count;
            while (along[here] < band * step)
            {
                var next = volume.Neighbours(here).MinBy(n => away[n]);
                if (away[next] >= away[here])
                {
                    return cuts;
                }

                here = next;
            }

            if (!bands.TryGetValue(band, out var cells))
            {
                return cuts;
            }

            var near = Connected(volume, [.. cells], here);
            cuts.Add((near.Aggregate(Vector3.Zero, (s, c) => s + volume.Middle(c)) / near.Count, near.Count));
        }

        return cuts;
    }

    private static List<int> Connected(BodyVolume volume, HashSet<int> cells, int from)
    {
        var start = cells.Contains(from) ? from : cells.MinBy(c => Vector3.DistanceSquared(volume.Middle(c), volume.Middle(from)));
        var found = new List<int>();
        var stack = new Stack<int>();
        stack.Push(start);
        cells.Remove(start);
        while (stack.TryPop(out var c))
        {
            found.Add(c);
            foreach (var n in volume.Neighbours(c))
            {
                if (cells.Remove(n))
                {
                    stack.Push(n);
                }
            }
        }

        return found;
    }
}
