using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Labelling;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>Where a body that is followed is expected in the next frame.</summary>
public sealed class BodyFollowerTests
{
    private static readonly Skeleton Body = Anthropometry.Body(1.7f);

    private static readonly Performer Ines = new(
        "Ines",
        1.7f,
        Body,
        [
            .. Body.Joints.SelectMany(
                (joint, j) =>
                    new[] { new Vector3(0.05f, 0, 0.03f), new Vector3(-0.04f, 0.03f, 0), new Vector3(0.01f, -0.02f, -0.05f) }.Select(
                        (at, k) => new PerformerMarker($"{joint.Name}{k}", j, at)
                    )
            ),
        ]
    );

    /// <summary>Every marker with the left upper arm swung so far, degrees.</summary>
    private static Vector3[] Points(float degrees)
    {
        var motion = Motion.AtRest(Body, 30, 1);
        motion.RotationsAt(0)[Body.IndexOf(BodyRole.UpperArmL)] *= Rotations.AboutAxis(2, -degrees * MathF.PI / 180);
        var (turns, places) = (new Quaternion[Body.Count], new Vector3[Body.Count]);
        ForwardKinematics.World(motion, 0, turns, places);
        return [.. Ines.Markers.Select(m => places[m.Joint] + Vector3.Transform(m.Offset, turns[m.Joint]))];
    }

    [Theory]
    [InlineData(30, 0.55)]
    [InlineData(60, 0.85)]
    [InlineData(120, 1.02)]
    public void Limbs_keep_on_turning_the_more_the_fewer_frames_there_are(double rate, double left)
    {
        var follower = new BodyFollower(BodyModel.Create(Ines), rate);
        var standing = new ModelPose(BodyModel.Create(Ines));
        (standing.Values[0], standing.Values[1], standing.Values[2]) = (
            Body.RestPositions[0].X,
            Body.RestPositions[0].Y,
            Body.RestPositions[0].Z
        );
        follower.Begin(standing);
        int[] ids = [.. Enumerable.Range(0, Ines.Markers.Count)];
        foreach (var id in ids)
        {
            follower.Hold(id, id);
        }

        for (var degrees = 0; degrees <= 24; degrees += 6)
        {
            Assert.True(follower.Step(ids, Points(degrees)));
        }

        follower.Foresee();
        // The hand's markers are farthest from everything else: how much of the next step's way is still to be gone.
        var hand = Ines.Markers.Select((m, i) => (m, i)).Where(x => x.m.Joint == Body.IndexOf(BodyRole.HandL)).Select(x => x.i).ToArray();
        var (now, next) = (Points(24), Points(30));
        var share = hand.Average(i => follower.Nearest(next[i]) / Vector3.Distance(now[i], next[i]));
        Assert.InRange(share, left - 0.35, left);
    }
}
