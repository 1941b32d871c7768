using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Clipping;

public sealed class PushOutTests
{
    private static readonly (Skeleton Skeleton, BodyVolumes Volumes) Stevedore = Character("Stevedore");

    private static (Skeleton, BodyVolumes) Character(string name)
    {
        var binding = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name);
        var skeleton = RoleFinder.Assign(binding.Skeleton, null, name);
        return (skeleton, VolumeFitter.Fit(skeleton, GltfSkinPoints.Of(binding)));
    }

    private static List<ClippingFrame> Clipping(Motion motion, BodyVolumes volumes)
    {
        var turns = new Quaternion[motion.Rotations.Length];
        var places = ForwardKinematics.WorldPositions(motion, turns);
        return ClippingMeasure.Measure(motion, places, turns, volumes);
    }

    [Fact]
    public void Volumes_are_as_thick_as_the_skin()
    {
        // A thigh of a cylinder of 7 cm, wider by cloth below; its volumes know both, one stray point changes nothing.
        var s = Anthropometry.Body(1.75f);
        var (hip, knee) = (s.IndexOf(BodyRole.ThighL), s.IndexOf(BodyRole.ShinL));
        Vector3 a = s.RestPositions[hip],
            b = s.RestPositions[knee];
        var places = Enumerable
            .Range(0, 400)
            .Select(i =>
            {
                var (t, angle) = ((i / 20) / 19f, (i % 20) * MathF.PI / 10);
                var radius = t < 0.5f ? 0.07f : 0.11f;
                return Vector3.Lerp(a, b, t) + new Vector3(radius * MathF.Cos(angle), 0, radius * MathF.Sin(angle));
            })
            .Append(a + new Vector3(0.5f, -0.1f, 0))
            .ToArray();
        var fitted = VolumeFitter.Fit(s, new SkinPoints(places, [.. places.Select(_ => hip)]));
        Assert.Equal([0.07f, 0.11f], fitted.All.Where(v => v.Part == "ThighL").Select(v => MathF.Round(v.Radius, 2)));
        // Parts without skin are as on average.
        Assert.Equal(
            BodyVolumes.OfProportions(s).All.Single(v => v.Part == "Head").Radius,
            fitted.All.Single(v => v.Part == "Head").Radius
        );
    }

    [Fact]
    public void A_trunk_is_wider_than_deep()
    {
        var chest = Stevedore.Volumes.All.Where(v => v.Part == "Chest").ToArray();
        Assert.Equal(2, chest.Length);
        Assert.All(chest, v =>
        {
            Assert.InRange(v.Radius, 0.10f, 0.20f);
            Assert.InRange(Vector3.Distance(v.OffsetA, v.OffsetB), 0.05f, 0.35f);
        });
    }

    [Theory]
    [InlineData("crate-carry", "Stevedore")]
    [InlineData("cam-mend-net", "Stevedore")]
    [InlineData("cam-mend-net", "Lamplighter")]
    public void Arms_come_out_smoothly_and_hands_keep_their_turn(string scene, string name)
    {
        var (skeleton, volumes) = Character(name);
        var played = Retargeter.Retarget(Acts.Perform(scene, HarbourCast.Ines, 1, 60).Actors[0].Motion, skeleton).Motion;
        var before = Clipping(played, volumes);
        Assert.True(before.Max(c => c.DepthMillimetres) > 40);
        var (motion, report) = PushOut.Apply(played, volumes);
        // The written motion is measured again, not the report believed.
        var after = Clipping(motion, volumes);
        Assert.Equal((before.Count, after.Count), (report.Before.Count, report.After.Count));
        Assert.True(after.Count < before.Count / 4 && PushOutReport.Deepest(after) < 15, $"{after.Count} {PushOutReport.Deepest(after)}");
        var (was, now) = (new Quaternion[played.Rotations.Length], new Quaternion[played.Rotations.Length]);
        Vector3[] a = ForwardKinematics.WorldPositions(played, was),
            b = ForwardKinematics.WorldPositions(motion, now);
        int n = skeleton.Count,
            hand = skeleton.IndexOf(BodyRole.HandL),
            foot = skeleton.IndexOf(BodyRole.FootL);
        float jump = 0,
            own = 0;
        for (var f = 2; f < motion.FrameCount; f++)
        {
            Assert.True(Rotations.Angle(was[(f * n) + hand], now[(f * n) + hand]) < 0.002f);
            Assert.Equal(a[(f * n) + foot], b[(f * n) + foot]);
            float Step(Vector3[] p) => (p[(f * n) + hand] - (2 * p[((f - 1) * n) + hand]) + p[((f - 2) * n) + hand]).Length();
            (jump, own) = (MathF.Max(jump, Step(b)), MathF.Max(own, Step(a)));
        }

        Assert.True(jump < own * 1.5f, $"{jump * 1000:0.0} against {own * 1000:0.0} mm a frame twice");
    }

    [Fact]
    public void What_does_not_clip_is_left_alone()
    {
        var played = Retargeter.Retarget(Acts.Perform("haul-rope", HarbourCast.Tobi, 1, 60).Actors[0].Motion, Stevedore.Skeleton).Motion;
        var (motion, report) = PushOut.Apply(played, Stevedore.Volumes);
        Assert.Empty(report.Before);
        Assert.Equal(0, report.HandMillimetres + report.ElbowMillimetres);
        Assert.True(played.Rotations.SequenceEqual(motion.Rotations));
    }
}
