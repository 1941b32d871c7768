using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// A limb that fell into a wrong pose stays there: what is surely seen of it is far off and counts for little. Such stretches are looked at a second
/// time, beginning between the poses before and after them, and the pose that agrees better with all films is taken.
/// </summary>
internal static class FilmSecondLook
{
    /// <summary>A limb is off when its surely seen points are so many of their own spreads away on the whole.</summary>
    private const double Off = 5;

    /// <summary>A point is surely seen from this weight on, 1/pixel².</summary>
    private const double SureWeight = 0.01;

    /// <summary>Shorter stretches are noise, those with less between them are one; so much is taken along at both ends; seconds.</summary>
    private const double Shortest = 0.1,
        Joined = 0.2,
        Along = 0.1;

    /// <summary>Another pose must be better by this share.</summary>
    private const double Better = 0.9;

    private static readonly string[] Limbs = ["Arm L", "Arm R", "Leg L", "Leg R"];

    /// <summary>Poses of the row that are better than those it has, by frame; empty when nothing is.</summary>
    public static Dictionary<int, ModelPose> Find(FilmBody body, FilmClock clock, ModelPose[] row, CancellationToken cancel)
    {
        var found = new Dictionary<int, ModelPose>();
        var off = Limbs.Select(_ => new double[row.Length]).ToArray();
        var solver = new FilmFrame(body);
        var limbs = body.Points.Select(p => Array.IndexOf(Limbs, LimbOf(p.Joint))).ToArray();
        for (var f = 0; f < row.Length; f++)
        {
            Measure(solver, clock.At(f), row[f], limbs, off, f);
        }

        var along = (int)Math.Ceiling(Along * clock.Rate);
        for (var limb = 0; limb < Limbs.Length; limb++)
        {
            int[] joints = [.. Enumerable.Range(0, body.Skeleton.Count).Where(j => LimbOf(body.Skeleton[j].Role) == Limbs[limb])];
            foreach (var (start, end) in FilmRuns.Above(off[limb], Off, Shortest * clock.Rate, Joined * clock.Rate))
            {
                cancel.ThrowIfCancellationRequested();
                foreach (
                    var (f, pose) in Again(
                        body,
                        solver,
                        clock,
                        row,
                        joints,
                        Math.Max(0, start - along),
                        Math.Min(row.Length - 1, end + along)
                    )
                )
                {
                    found[f] = pose;
                }
            }
        }

        return found;
    }

    /// <summary>Hands go with their arms.</summary>
    private static string LimbOf(BodyRole? role) =>
        role is { } r ? BodyRoles.Part(r).Replace("Hand", "Arm", StringComparison.Ordinal) : string.Empty;

    private static void Measure(FilmFrame solver, List<FilmSight> sights, ModelPose pose, int[] limbs, double[][] off, int f)
    {
        var places = solver.Place(pose);
        Span<double> sum = stackalloc double[Limbs.Length];
        Span<int> count = stackalloc int[Limbs.Length];
        foreach (var s in sights)
        {
            if (limbs[s.Point] is not (>= 0 and var limb) || s.Weight < SureWeight)
            {
                continue;
            }

            sum[limb] += Math.Sqrt(s.Weight) * s.Miss(places[s.Point]);
            count[limb]++;
        }

        for (var limb = 0; limb < Limbs.Length; limb++)
        {
            off[limb][f] = count[limb] == 0 ? 0 : sum[limb] / count[limb];
        }
    }

    private static List<(int Frame, ModelPose Pose)> Again(
        FilmBody body,
        FilmFrame solver,
        FilmClock clock,
        ModelPose[] row,
        int[] joints,
        int start,
        int end
    )
    {
        var result = new List<(int, ModelPose)>();
        double now = 0,
            then = 0;
        for (var f = start; f <= end; f++)
        {
            var sights = clock.At(f);
            var own = Copy(body, row[f]);
            now += solver.Solve(own, sights);
            var other = Copy(body, row[f]);
            Between(body, row, joints, start - 1, end + 1, f, other);
            then += solver.Solve(other, sights, steps: 20);
            result.Add((f, other));
        }

        return then < Better * now ? result : [];
    }

    private static ModelPose Copy(FilmBody body, ModelPose pose)
    {
        var copy = new ModelPose(body.Model);
        copy.CopyFrom(pose);
        return copy;
    }

    /// <summary>Joints on the straight way between the poses at two frames; where one of them is beyond the film the other holds.</summary>
    private static void Between(FilmBody body, ModelPose[] row, int[] joints, int before, int after, int f, ModelPose into)
    {
        var share = (f - before) / (double)(after - before);
        var (a, b) = (before < 0 ? row[after] : row[before], after >= row.Length ? row[Math.Max(0, before)] : row[after]);
        foreach (var j in joints)
        {
            into.Turns[j] = a.Turns[j] * Scaled((a.Turns[j].Conjugate() * b.Turns[j]).Log(), share);
            var free = body.Model.Freedoms[j];
            for (var d = body.Model.FirstDof[j]; d < body.Model.FirstDof[j] + (free.Ball ? 0 : free.Axes.Count); d++)
            {
                into.Values[d] = a.Values[d] + ((b.Values[d] - a.Values[d]) * share);
            }
        }
    }

    private static Geometry.Quaterniond Scaled(Geometry.Vector3d turn, double share) =>
        Geometry.Quaterniond.Exp(turn.X * share, turn.Y * share, turn.Z * share);
}
