using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// One film does not tell whether an elbow or a hand is nearer or farther than what it hangs from: each ray meets the sphere of the bone's length
/// twice. Of the four ways an arm can lie in each frame the row is taken that moves least, is natural, and fits the other films (dynamic programming).
/// </summary>
/// <remarks>The two-fold choice after Taylor, "Reconstruction of Articulated Objects from Point Correspondences in a Single Image", 2000.</remarks>
internal static class ArmSides
{
    private const int Ways = 4;

    /// <summary>An elbow or a hand moves about so fast, m/s.</summary>
    private const double UsualSpeed = 1.6;

    /// <summary>A hand behind the chest by this, metres, is unusual; an elbow that points up or ahead is, too.</summary>
    private const double Behind = 0.22,
        NaturalCost = 0.7;

    /// <summary>How near the arms are led to the places chosen, metres.</summary>
    private const double Lead = 0.05;

    /// <summary>Leads the arms of all poses to the best row.</summary>
    public static void Choose(FilmBody body, FilmClock clock, IReadOnlyList<ModelPose> poses, CancellationToken cancel)
    {
        var arms = new[] { 'L', 'R' }.Select(side => Row(body, clock, poses, side)).ToArray();
        Parallel.For(
            0,
            poses.Count,
            new ParallelOptions { CancellationToken = cancel },
            () => (Solver: new FilmFrame(body), Kinematics: new ModelKinematics(body.Model)),
            (f, _, own) =>
            {
                foreach (var (arm, side) in arms.Zip("LR"))
                {
                    Lay(body, own.Kinematics, poses[f], arm[f], side);
                }

                var stands = arms.SelectMany(a => a[f]).ToArray();
                if (stands.Length > 0)
                {
                    own.Solver.Solve(poses[f], clock.At(f), null, 1, stands, steps: 10);
                }

                return own;
            },
            _ => { }
        );
    }

    /// <summary>
    /// Lays one arm through elbow and wrist: the upper arm along its line, turned so that the elbow's hinge lies across the bend.
    /// </summary>
    private static void Lay(FilmBody body, ModelKinematics kinematics, ModelPose pose, FilmStand[] arm, char side)
    {
        if (arm.Length < 2)
        {
            return;
        }

        int At(string stem) => body.Skeleton.IndexOf(Enum.Parse<BodyRole>(stem + side));
        int upper = At("UpperArm"),
            fore = At("Forearm"),
            sign = side == 'L' ? 1 : -1;
        kinematics.Update(pose, false);
        var u = (arm[0].Place - kinematics.Position[upper]).Normalised();
        var f = (arm[1].Place - arm[0].Place).Normalised();
        var bend = f - (u * Vector3d.Dot(f, u));
        var x = u * sign;
        // A straight arm keeps the turn it has.
        var z = bend.Length > 0.15 ? bend.Normalised() : kinematics.Rotation[upper].Z;
        var y = Vector3d.Cross(z, x).Normalised();
        z = Vector3d.Cross(x, y);
        var back = kinematics.Rotation[body.Skeleton.Parents[upper]].Transposed;
        pose.Turns[upper] = (Quaterniond)Rotations.FromAxes((back * x).ToSingle(), (back * y).ToSingle(), (back * z).ToSingle());
        pose.Values[body.Model.FirstDof[fore]] = -sign * Math.Acos(Math.Clamp(Vector3d.Dot(f, u), -1, 1));
    }

    private static FilmStand[][] Row(FilmBody body, FilmClock clock, IReadOnlyList<ModelPose> poses, char side)
    {
        int elbow = body.PointOf("Elbow" + side),
            wrist = body.PointOf("Wrist" + side);
        var result = poses.Select(_ => Array.Empty<FilmStand>()).ToArray();
        if (elbow < 0 || wrist < 0)
        {
            return result;
        }

        var arm = new Arm(body, clock, side, elbow, wrist);
        var (costs, last) = (new double[Ways], (Way[]?)null);
        var (ways, back) = (new Way[poses.Count][], new int[poses.Count][]);
        var solver = new FilmFrame(body);
        for (var f = 0; f < poses.Count; f++)
        {
            var now = arm.At(f, poses[f], solver);
            ways[f] = now;
            back[f] = new int[Ways];
            var next = new double[Ways];
            for (var w = 0; w < Ways; w++)
            {
                var best = last is null ? 0 : double.PositiveInfinity;
                for (var p = 0; p < Ways && last is not null; p++)
                {
                    var cost = costs[p] + Moved(last[p], now[w], clock.Rate);
                    (best, back[f][w]) = cost < best ? (cost, p) : (best, back[f][w]);
                }

                next[w] = best + now[w].Cost;
            }

            (costs, last) = (next, now);
        }

        var at = Array.IndexOf(costs, costs.Min());
        for (var f = poses.Count - 1; f >= 0; f--)
        {
            var way = ways[f][at];
            const double weight = 1 / (Lead * Lead);
            result[f] = [new(elbow, way.Elbow, weight, weight), new(wrist, way.Wrist, weight, weight)];
            at = back[f][at];
        }

        return result;
    }

    private static double Moved(Way a, Way b, double rate)
    {
        double Cost(Vector3d d)
        {
            var r2 = Vector3d.Dot(d, d) * rate * rate / (UsualSpeed * UsualSpeed);
            return 2 * Math.Log(1 + (0.5 * r2));
        }

        // Against the shoulder, so that the body's own way over the floor does not count.
        return Cost(b.Elbow - b.Shoulder - (a.Elbow - a.Shoulder)) + Cost(b.Wrist - b.Shoulder - (a.Wrist - a.Shoulder));
    }

    private readonly record struct Way(Vector3d Shoulder, Vector3d Elbow, Vector3d Wrist, double Cost);

    private sealed class Arm(FilmBody body, FilmClock clock, char side, int elbow, int wrist)
    {
        private readonly int _shoulder = body.PointOf("Shoulder" + side);
        private readonly double _upper = Length(body, "Forearm" + side);
        private readonly double _fore = Length(body, "Hand" + side);

        public Way[] At(int frame, ModelPose pose, FilmFrame solver)
        {
            var places = solver.Place(pose);
            var (shoulder, elbowNow, wristNow) = (places[_shoulder], places[elbow], places[wrist]);
            var (left, right) = (places[Index("ShoulderL")], places[Index("ShoulderR")]);
            var up = (left + right) * 0.5 - (places[Index("HipL")] + places[Index("HipR")]) * 0.5;
            var ahead = Vector3d.Cross(left - right, up).Normalised();
            var outward = (left - right).Normalised() * (side == 'L' ? 1 : -1);
            var sights = clock.At(frame).Where(s => s.Point == elbow || s.Point == wrist).ToArray();
            var ways = new Way[Ways];
            for (var w = 0; w < Ways; w++)
            {
                var e = Meet(frame, elbow, shoulder, _upper, (w & 1) == 0) ?? elbowNow;
                var h = Meet(frame, wrist, e, _fore, (w & 2) == 0) ?? e + (wristNow - elbowNow);
                ways[w] = new Way(shoulder, e, h, Natural(shoulder, e, h, up.Normalised(), ahead, outward) + Seen(sights, e, h));
            }

            return ways;
        }

        private int Index(string name) => body.PointOf(name);

        private static double Length(FilmBody body, string role) =>
            body.Skeleton[body.Skeleton.IndexOf(Enum.Parse<BodyRole>(role))].Offset.Length();

        /// <summary>Where the ray of a point meets the sphere of a bone, nearer to the camera or farther; the nearest place where it misses.</summary>
        private Vector3d? Meet(int frame, int point, Vector3d from, double length, bool nearer)
        {
            var sights = clock.Of(0, frame, 0);
            var seen = sights.FindIndex(s => s.Point == point);
            if (seen < 0)
            {
                return null;
            }

            var s = sights[seen];
            var (x, y) = s.Camera.Undistort(s.U, s.V);
            var ray = (s.Camera.Rotation.Transposed * new Vector3d(x, y, 1)).Normalised();
            var to = from - s.Camera.Position;
            var along = Vector3d.Dot(ray, to);
            var gap = Vector3d.Dot(to, to) - (along * along);
            var half = Math.Sqrt(Math.Max(0, (length * length) - gap));
            var place = s.Camera.Position + (ray * (along + (nearer ? -half : half)));
            return from + ((place - from).Normalised() * length);
        }

        private static double Natural(Vector3d shoulder, Vector3d elbow, Vector3d wrist, Vector3d up, Vector3d ahead, Vector3d outward)
        {
            // The trunk is in the way of an elbow that goes inward, and of a hand far across.
            var inward = Math.Max(0, -Vector3d.Dot(elbow - shoulder, outward) - 0.02) / 0.08;
            var across = Math.Max(0, -Vector3d.Dot(wrist - shoulder, outward) - 0.15) / 0.12;
            var behind = Math.Max(0, -Vector3d.Dot(wrist - shoulder, ahead) - 0.08) / Behind;
            // The elbow hangs below and behind the line from shoulder to hand.
            var bend = elbow - ((shoulder + wrist) * 0.5);
            var wrong = Math.Max(0, Vector3d.Dot(bend, ahead) + Vector3d.Dot(bend, up)) / 0.12;
            // Behind the back an arm reaches low only.
            var reach = elbow - shoulder;
            var back = Math.Max(0, -Vector3d.Dot(reach, ahead) - (0.5 * Math.Max(0, -Vector3d.Dot(reach, up))) - 0.03) / 0.06;
            return NaturalCost
                * (
                    Math.Min(9, back * back)
                    + (behind * behind)
                    + Math.Min(4, wrong * wrong)
                    + Math.Min(6, inward * inward)
                    + Math.Min(6, across * across)
                );
        }

        private static double Reprojected(FilmSight s, Vector3d place)
        {
            var c = (s.Camera.Rotation * place) + s.Camera.Translation;
            var (u, v) = s.Camera.Distort(c.X / Math.Max(0.2, c.Z), c.Y / Math.Max(0.2, c.Z));
            return Math.Log(1 + (s.Weight * (((u - s.U) * (u - s.U)) + ((v - s.V) * (v - s.V))) / 9));
        }

        private double Seen(FilmSight[] sights, Vector3d e, Vector3d h)
        {
            double cost = 0;
            foreach (var s in sights)
            {
                cost += Reprojected(s, s.Point == elbow ? e : h);
            }

            return cost;
        }
    }
}
