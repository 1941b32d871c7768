using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Measures a performer from a labelled range-of-motion take: bone lengths and marker places.</summary>
/// <remarks>
/// A body of average proportions is stood in the T-pose frame, followed through the take, and then bones, marker places and ~150 poses are
/// fitted together; twice, because better bodies follow better. Functional joint centres fall out of the joint fit (compare Ehrig 2006).
/// </remarks>
public static class PerformerCalibration
{
    /// <summary>Skin's own way against what a fitted body leaves of it.</summary>
    private const double SkinShare = 4;

    /// <summary>Metres.</summary>
    private const double FirmestSkin = 0.0015,
        LoosestSkin = 0.012;

    private static readonly SolveOptions Options = new() { RobustScale = 0.025 };

    /// <summary>Measures a performer from a take of markers.</summary>
    public static (Performer Performer, CalibrationReport Report) Calibrate(
        string name,
        MarkerTake source,
        MarkerSet set,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        set = FingerMarkers.Body(set);
        var take = source.Only([.. set.Markers.Select(m => m.Name)]);
        var warnings = Check(take, set);
        var rest = RestFrame.Find(take, set);
        if (rest < 0)
        {
            rest = Enumerable.Range(0, take.FrameCount).MaxBy(f => take.At(f).ToArray().Count(MarkerTake.Seen));
            warnings.Add("no T-pose was found; the frame with most markers seen is used");
        }

        var performer = StandIn(name, take, set, rest, out var spread, out var start, warnings);
        var moved = new Dictionary<string, double>(StringComparer.Ordinal);
        double rms = 0;
        var chosen = 0;
        foreach (var (round, count) in new[] { 40, 90, 130 }.Select((c, i) => (i, c)))
        {
            cancel.ThrowIfCancellationRequested();
            var model = BodyModel.Create(performer);
            var followed = Follow(model, take, rest, start, cancel);
            var picked = PickFrames(model, followed, take, count);
            chosen = picked.Count;
            var targets = picked.ConvertAll(p => Targets(take, p.Frame));
            var poses = picked.ConvertAll(p => p.Pose).ToArray();
            var options = Options with { MarkerSigma = round == 0 ? Options.MarkerSigma : SkinOf(rms) };
            var shape = new BodyShape(performer.Skeleton, performer.Markers, spread, options.MarkerSigma);
            var bundle = new BodyBundle(model, shape, targets, poses, options, picked.FindIndex(p => p.Frame == rest));
            bundle.Solve(round == 0 ? 8 : 16, round == 2 ? 2e-5 : 2e-4, cancel, p => progress?.Report((round + p) / 3));
            performer = FromModel(performer, model);
            rms = Rms(model, targets, poses);
            var standing = poses[picked.FindIndex(p => p.Frame == rest)];
            if (round == 2)
            {
                performer = FlatFeet(performer, model, standing);
            }

            start = new ModelPose(model);
            start.CopyFrom(poses[picked.FindIndex(p => p.Frame == rest)]);
            moved = Moved(model, performer.Skeleton, poses);
        }

        warnings.AddRange(MotionNeeds.Told(MotionNeeds.Of(moved)));
        progress?.Report(1);
        return (performer, new CalibrationReport(rest, chosen, rms, moved, warnings));
    }

    /// <summary>
    /// How far skin carries markers off their places: several times what is left of it once a body is fitted, because the body bends after its skin.
    /// What is likely weighs by it: firm skin lets the take speak, a loose suit the average body.
    /// </summary>
    /// <param name="left">RMS distance of markers from the body fitted so far, metres.</param>
    private static double SkinOf(double left) => Math.Clamp(SkinShare * left, FirmestSkin, LoosestSkin);

    private static List<string> Check(MarkerTake take, MarkerSet set)
    {
        var warnings = new List<string>();
        var seen = set.Markers.Where(m => take.IndexOf(m.Name) is >= 0 and var i && take.VisibleFrames(i) > 0).ToList();
        if (seen.Count < 12)
        {
            throw new RefusedException(
                $"only {seen.Count} of the {set.Markers.Count} markers of '{set.Name}' are in the take; at least 12 are needed to measure a body"
            );
        }

        var missing = set.Markers.Except(seen).Select(m => m.Name).ToArray();
        if (missing.Length > 0)
        {
            warnings.Add($"not in the take: {string.Join(", ", missing)}");
        }

        if (!seen.Exists(m => m.Segment == BodyRole.Pelvis))
        {
            warnings.Add("no marker sits on the pelvis; the hips are less certain");
        }

        return warnings;
    }

    /// <summary>An average body stood in the T-pose frame, markers where they were seen (or where the set says).</summary>
    private static Performer StandIn(
        string name,
        MarkerTake take,
        MarkerSet set,
        int rest,
        out List<double> spread,
        out ModelPose start,
        List<string> warnings
    )
    {
        var facing = RestFrame.Facing(take, set, rest) ?? Vector3.UnitZ;
        var turn = Rotations.Heading(facing);
        var back = Quaternion.Conjugate(turn);
        var top = RestFrame.Centre(take, set, rest, m => m.Segment == BodyRole.Head)?.Y;
        float highest = 0;
        foreach (var p in take.At(rest))
        {
            highest = MarkerTake.Seen(p) ? MathF.Max(highest, p.Y) : highest;
        }

        var stature = Math.Clamp(top is null ? highest / 0.83f : highest / 0.99f, 0.9f, 2.4f);
        var skeleton = Anthropometry.Body(stature);
        var pelvisMarkers = RestFrame.Centre(take, set, rest, m => m.Segment == BodyRole.Pelvis)
            ?? RestFrame.Centre(take, set, rest, _ => true)
            ?? Vector3.Zero;
        var hands = (
            RestFrame.Centre(take, set, rest, m => BodyRoles.Side(m.Segment) == 'L'),
            RestFrame.Centre(take, set, rest, m => BodyRoles.Side(m.Segment) == 'R')
        );
        var middle = hands is ({ } l, { } r) ? (l + r) / 2 : pelvisMarkers;
        // Pelvis markers sit all round the hips, so their mean is a fair guess fore and aft; side to side, left and right balance.
        var place = new Vector3(pelvisMarkers.X, skeleton.RestPositions[0].Y, pelvisMarkers.Z);
        var side = Vector3.Transform(Vector3.UnitX, turn);
        place += side * Vector3.Dot(middle - place, side) * 0.5f;
        var markers = new List<PerformerMarker>();
        spread = [];
        foreach (var m in set.Markers)
        {
            if (take.IndexOf(m.Name) < 0)
            {
                continue;
            }

            var joint = BodyModel.CarrierOf(skeleton, m.Segment);
            var exact = skeleton[joint].Role == m.Segment;
            var p = take[rest, take.IndexOf(m.Name)];
            var seen = MarkerTake.Seen(p);
            var fromFrame = seen
                ? Vector3.Transform(p - place, back) + skeleton.RestPositions[0] - skeleton.RestPositions[joint]
                : Vector3.Zero;
            var said = exact ? m.Offset : null;
            markers.Add(new PerformerMarker(m.Name, joint, said ?? fromFrame, BodyRoles.IsFinger(m.Segment) ? 0.05f : 1));
            spread.Add(
                said is not null ? 0.025
                : seen ? 0.05
                : 0.2
            );
            if (!seen && said is null)
            {
                warnings.Add($"{m.Name} is hidden in the T-pose; its place is found from the rest of the take");
            }
        }

        var performer = new Performer(name, stature, skeleton, markers);
        var model = BodyModel.Create(performer);
        start = BodyModel.RestPose(model, place, turn);
        return performer;
    }

    /// <summary>Follows the body from the T-pose frame to both ends of the take.</summary>
    private static List<(int Frame, ModelPose Pose)> Follow(
        ArticulatedModel model,
        MarkerTake take,
        int rest,
        ModelPose start,
        CancellationToken cancel
    )
    {
        var solver = new FrameSolver(model, Options);
        var step = Math.Max(1, (int)Math.Round(take.FrameRate / 40));
        var result = new List<(int, ModelPose)>();
        foreach (var direction in new[] { 1, -1 })
        {
            var pose = new ModelPose(model);
            pose.CopyFrom(start);
            var previous = new ModelPose(model);
            previous.CopyFrom(pose);
            for (var f = rest; f >= 0 && f < take.FrameCount; f += step * direction)
            {
                cancel.ThrowIfCancellationRequested();
                solver.Solve(pose, Targets(take, f), previous);
                previous.CopyFrom(pose);
                if (direction > 0 || f != rest)
                {
                    var kept = new ModelPose(model);
                    kept.CopyFrom(pose);
                    result.Add((f, kept));
                }
            }
        }

        return result;
    }

    /// <summary>Frames as unlike one another as can be: farthest-point choice over joint turns, the T-pose first.</summary>
    private static List<(int Frame, ModelPose Pose)> PickFrames(
        ArticulatedModel model,
        List<(int Frame, ModelPose Pose)> all,
        MarkerTake take,
        int count
    )
    {
        var features = all.ConvertAll(a => Enumerable.Range(1, model.JointCount - 1).Select(j => a.Pose.TurnOf(model, j).Log()).ToArray());
        var seen = all.ConvertAll(a => take.At(a.Frame).ToArray().Count(MarkerTake.Seen) / (double)take.MarkerCount);
        var distance = new double[all.Count];
        Array.Fill(distance, double.MaxValue);
        var picked = new List<(int, ModelPose)>();
        var next = 0;
        while (picked.Count < count && picked.Count < all.Count)
        {
            picked.Add(all[next]);
            distance[next] = -1;
            for (var i = 0; i < all.Count; i++)
            {
                if (distance[i] < 0)
                {
                    continue;
                }

                double d = 0;
                for (var j = 0; j < features[i].Length; j++)
                {
                    var e = features[i][j] - features[next][j];
                    d += Vector3d.Dot(e, e);
                }

                distance[i] = Math.Min(distance[i], d * seen[i]);
            }

            next = Array.IndexOf(distance, distance.Max());
            if (distance[next] < 0)
            {
                break;
            }
        }

        return picked;
    }

    private static Performer FromModel(Performer performer, ArticulatedModel model)
    {
        var s = performer.Skeleton;
        var joints = s.Joints.Select((j, i) => i == 0 ? j : j with { Offset = model.Offsets[i].ToSingle() }).ToList();
        var rest = new Skeleton(joints);
        var low = Math.Min(rest.RestPositions[rest.IndexOf(BodyRole.FootL)].Y, rest.RestPositions[rest.IndexOf(BodyRole.FootR)].Y);
        // Ankles 3.9 % of the stature above the floor (Winter).
        joints[0] = joints[0] with { Offset = new Vector3(0, joints[0].Offset.Y - low + (0.039f * performer.Stature), 0) };
        return performer with
        {
            Skeleton = new Skeleton(joints),
            Markers = [.. performer.Markers.Select((m, i) => m with { Offset = model.MarkerOffsets[i].ToSingle() })],
        };
    }

    /// <summary>
    /// In the T-pose the feet stand flat, whatever the knees do: turns each foot's frame level there, its markers staying where they are.
    /// </summary>
    private static Performer FlatFeet(Performer performer, ArticulatedModel model, ModelPose standing)
    {
        var kinematics = new ModelKinematics(model);
        kinematics.Update(standing, false);
        var markers = performer.Markers.ToArray();
        foreach (var role in new[] { BodyRole.FootL, BodyRole.FootR })
        {
            var foot = performer.Skeleton.IndexOf(role);
            var toes = performer.Skeleton.IndexOf(role == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR);
            var r = kinematics.Rotation[foot];
            var level = Rotations.Heading(r.Z.ToSingle());
            var now = Rotations.FromAxes(r.X.ToSingle(), r.Y.ToSingle(), r.Z.ToSingle());
            var change = Quaternion.Normalize(Quaternion.Conjugate(level) * now);
            if (Rotations.Log(change).Length() > 0.5f)
            {
                continue;
            }

            for (var i = 0; i < markers.Length; i++)
            {
                if (markers[i].Joint == foot)
                {
                    markers[i] = markers[i] with { Offset = Vector3.Transform(markers[i].Offset, change) };
                }
                else if (markers[i].Joint == toes)
                {
                    // The toe joint stays in its place of the level frame; its markers are carried along.
                    var offset = performer.Skeleton[toes].Offset;
                    markers[i] = markers[i] with { Offset = Vector3.Transform(offset + markers[i].Offset, change) - offset };
                }
            }
        }

        return performer with
        {
            Markers = markers,
        };
    }

    private static Dictionary<string, double> Moved(ArticulatedModel model, Skeleton skeleton, ModelPose[] poses)
    {
        var moved = new Dictionary<string, double>(StringComparer.Ordinal);
        for (var j = 1; j < skeleton.Count; j++)
        {
            var mean = poses[0].TurnOf(model, j).Conjugate();
            moved[skeleton[j].Name] = poses.Max(p => (mean * p.TurnOf(model, j)).Log() is var v ? Math.Sqrt(Vector3d.Dot(v, v)) : 0);
        }

        return moved;
    }

    private static double Rms(ArticulatedModel model, List<Vector3d[]> targets, ModelPose[] poses)
    {
        var kinematics = new ModelKinematics(model);
        double sum = 0;
        var n = 0;
        for (var f = 0; f < poses.Length; f++)
        {
            kinematics.Update(poses[f], false);
            for (var i = 0; i < model.MarkerCount; i++)
            {
                if (!double.IsNaN(targets[f][i].X))
                {
                    var e = kinematics.Markers[i] - targets[f][i];
                    sum += Vector3d.Dot(e, e);
                    n++;
                }
            }
        }

        return Math.Sqrt(sum / Math.Max(1, n));
    }

    private static Vector3d[] Targets(MarkerTake take, int frame)
    {
        var t = new Vector3d[take.MarkerCount];
        for (var i = 0; i < t.Length; i++)
        {
            t[i] = take[frame, i];
        }

        return t;
    }
}
