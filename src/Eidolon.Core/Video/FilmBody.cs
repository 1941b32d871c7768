using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// A body that films can pose: joints turn as films can tell; it carries the trackers' points and the ankles and toes that stand on the floor.
/// </summary>
internal sealed class FilmBody
{
    /// <summary>Turns that no film of points tells are left out: about which axes these joints turn, the main one first.</summary>
    private static readonly Dictionary<string, int[]> Axes = new(StringComparer.Ordinal)
    {
        ["Forearm"] = [1, 0],
        ["Hand"] = [2, 1],
        ["Shin"] = [0],
        ["Toes"] = [0],
    };

    public FilmBody(Skeleton skeleton)
    {
        Skeleton = skeleton;
        Stature = Height(skeleton);
        Points = [.. FilmPoints.All.Where(p => skeleton.IndexOf(p.Joint) >= 0)];
        Standing = [.. new[] { BodyRole.FootL, BodyRole.ToesL, BodyRole.FootR, BodyRole.ToesR }.Where(r => skeleton.IndexOf(r) >= 0)];
        Model = new ArticulatedModel(
            [.. skeleton.Joints.Select(j => j.Parent)],
            [.. skeleton.Joints.Select(j => j.Parent < 0 ? default : (Vector3d)j.Offset)],
            [.. skeleton.Joints.Select(j => Freedom(j.Role))],
            [.. Points.Select(p => skeleton.IndexOf(p.Joint)), .. Standing.Select(skeleton.IndexOf)],
            [.. Points.Select(p => (Vector3d)(p.Place * Stature)), .. Standing.Select(_ => default(Vector3d))]
        );
    }

    public Skeleton Skeleton { get; }

    /// <summary>Metres.</summary>
    public float Stature { get; }

    /// <summary>The points the body carries: the first markers of <see cref="Model"/>.</summary>
    public List<FilmPoint> Points { get; }

    /// <summary>Index of a point by its name; −1 when the body has no such joint.</summary>
    public int PointOf(string name) => Points.FindIndex(p => p.Name == name);

    /// <summary>Joints that stand on the floor: the markers after the points.</summary>
    public List<BodyRole> Standing { get; }

    public ArticulatedModel Model { get; }

    /// <summary>How high a standing joint is above the ground when the foot lies flat, metres.</summary>
    public double RestHeight(int standing) => Skeleton.RestPositions[Skeleton.IndexOf(Standing[standing])].Y;

    /// <summary>Someone who stands at ease, or sits.</summary>
    /// <param name="heading">About the vertical, radians; 0 faces +Z.</param>
    public ModelPose AtEase(Vector3d pelvis, double heading, bool sits)
    {
        var pose = BodyModel.RestPose(Model, pelvis, Quaterniond.Exp(0, heading, 0));
        foreach (var (side, sign) in new[] { ("L", 1), ("R", -1) })
        {
            int At(string stem) => Skeleton.IndexOf(Enum.Parse<BodyRole>(stem + side));
            pose.Turns[At("UpperArm")] = Quaterniond.Exp(sits ? -0.5 : 0, 0, -sign * 1.1);
            pose.Values[Model.FirstDof[At("Forearm")]] = -sign * 0.4;
            pose.Turns[At("Thigh")] = Quaterniond.Exp(sits ? -1.4 : -0.15, 0, 0);
            pose.Values[Model.FirstDof[At("Shin")]] = sits ? 1.4 : 0.3;
        }

        return pose;
    }

    private static JointFreedom Freedom(BodyRole? role)
    {
        if (role is not { } r || BodyRoles.IsFinger(r))
        {
            return new JointFreedom(false, false, []);
        }

        var free = BodyFreedoms.Of(r);
        if (BodyRoles.Stem(r) == "UpperArm")
        {
            // About an arm that hangs, not about one that is held out.
            free = free with { Spread = [0.8, 0.8, 0.8] };
        }

        if (!Axes.TryGetValue(BodyRoles.Stem(r), out var axes))
        {
            return free;
        }

        var at = axes.Select(a => free.Axes.ToList().IndexOf(a)).ToArray();
        return free with { Axes = axes, Spread = [.. at.Select(i => free.Spread[i])], Limits = [.. at.Select(i => free.Limits[i])] };
    }

    private static float Height(Skeleton s)
    {
        var head = s.IndexOf(BodyRole.Head);
        var (low, high) = (s.RestPositions.Min(p => p.Y), head >= 0 ? s.RestPositions[head].Y : s.RestPositions.Max(p => p.Y));
        // The head's joint lies at 0.889 of the stature, the lowest joint at 0.009 (Winter).
        return (high - low) / 0.88f;
    }
}
