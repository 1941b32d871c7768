using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Optical;

/// <summary>What the live stage relies on: points that are followed, cameras that are watched, bodies and props that are found.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public class LiveTests(RingFixture fixture, ITestOutputHelper output) : IClassFixture<RingFixture>
{
    private static void Load(
        FrameReconstructor r,
        CentroidTake take,
        int frame,
        int? knocked = null,
        CameraModel? before = null,
        CameraModel? after = null
    )
    {
        for (var c = 0; c < take.CameraCount; c++)
        {
            float[] u = [.. take.UAt(frame, c)],
                v = [.. take.VAt(frame, c)];
            for (var k = 0; k < u.Length && c == knocked; k++)
            {
                var (x, y) = before!.Undistort(u[k], v[k]);
                var d = after!.Rotation * (before.Rotation.Transposed * new Core.Geometry.Vector3d(x, y, 1));
                (var nu, var nv) = after.Distort(d.X / d.Z, d.Y / d.Z);
                (u[k], v[k]) = ((float)nu, (float)nv);
            }

            r.Load(c, u, v);
        }
    }

    [Theory]
    [InlineData(3, 0.2)]
    [InlineData(9, 0.8)]
    public void A_knocked_camera_is_named_within_five_seconds(int camera, double degrees)
    {
        var r = new FrameReconstructor(fixture.Calibrated);
        var truth = fixture.Truth.Cameras[camera];
        var turned = HarbourRing.Knock(truth, degrees);
        var noticed = -1;
        for (var f = 0; f < 240 + 600 && f < fixture.Pictures.FrameCount; f++)
        {
            Load(r, fixture.Pictures, f, f >= 240 ? camera : null, truth, turned);
            r.Step();
            if (f < 240)
            {
                Assert.All(Enumerable.Range(0, 12), c => Assert.False(r.Health.Knocked(c)));
            }
            else if (r.Health.Knocked(camera))
            {
                noticed = f - 240;
                break;
            }
        }

        output.WriteLine($"noticed after {noticed / 120.0:0.00} s");
        Assert.InRange(noticed, 0, 600);
        Assert.All(Enumerable.Range(0, 12).Where(c => c != camera), c => Assert.False(r.Health.Knocked(c)));
    }

    [Fact]
    public void Two_performers_and_a_crate_are_found_and_named()
    {
        var performance = Acts.Perform("crate-carry", HarbourCast.Ines, 2);
        var truth = MarkerSimulator.TruthWithProps(performance, 0.006f);
        var pictures = PictureSimulator.See(performance, truth, fixture.Truth);
        var bodies = new[] { HarbourCast.Ines, HarbourCast.Tobi }.Select(Body).ToList();
        var crate = new RigidBodyTracker(HarbourProps.Crate);
        var r = new FrameReconstructor(fixture.Calibrated);
        long right = 0,
            wrong = 0,
            crateSeen = 0;
        double worst = 0;
        for (var f = 0; f < pictures.FrameCount; f++)
        {
            Load(r, pictures, f);
            r.Step();
            var seen = r.Points.Where(p => p.Age >= 3).ToArray();
            int[] ids = [.. seen.Select(p => p.Id)];
            Vector3[] places = [.. seen.Select(p => p.Position)];
            crate.Step(places, ids);
            if (f == 30)
            {
                // As on the stage: the best fit first, the other among what is left.
                foreach (var body in bodies.OrderByDescending(b => b.Find(ids, places)?.Fit ?? 0).ToArray())
                {
                    var free = Enumerable.Range(0, ids.Length).Where(i => !bodies.Any(b => b.Held.ContainsKey(ids[i]))).ToArray();
                    body.Begin(body.Find([.. free.Select(i => ids[i])], [.. free.Select(i => places[i])])!);
                }
            }

            foreach (var body in bodies)
            {
                var others = bodies.Where(b => b != body).SelectMany(b => b.Held.Keys).ToHashSet();
                var open = Enumerable.Range(0, ids.Length).Where(i => !others.Contains(ids[i])).ToArray();
                body.Step([.. open.Select(i => ids[i])], [.. open.Select(i => places[i])]);
                for (var i = 0; i < ids.Length && f > 60; i++)
                {
                    if (body.Held.TryGetValue(ids[i], out var marker))
                    {
                        var t = truth[f, truth.IndexOf($"{body.Name}:{body.Markers[marker].Name}")];
                        _ = (t - places[i]).Length() < 0.015f ? right++ : wrong++;
                    }
                }
            }

            if (f > 60 && crate.Pose.Trusted)
            {
                crateSeen++;
                worst = Math.Max(worst, (crate.Pose.Position - performance.Props[0].Places[f]).Length());
            }
        }

        var due = (pictures.FrameCount - 61) * 106.0;
        output.WriteLine(
            $"named right {right / due:P2}, wrong {wrong / due:P3}, crate {crateSeen / (pictures.FrameCount - 61.0):P1}, worst {worst * 1000:0.0} mm"
        );
        Assert.True(right > 0.95 * due);
        Assert.True(wrong < 0.01 * due);
        Assert.True(crateSeen > 0.98 * (pictures.FrameCount - 61) && worst < 0.01);
    }

    private static LiveBody Body(Person person)
    {
        var rom = Acts.Labelled(Acts.Perform("rom", person, 1)).Range(0, 3600);
        return new LiveBody(LabelSubject.Learn(person.Name, rom, HarbourMarkers.Set()), 120);
    }

    [Fact]
    public void The_figure_follows_later_by_its_smoothing()
    {
        var body = Body(HarbourCast.Ines);
        body.Smooth(0.1, 1 / 60.0);
        Assert.Equal(Vector3.Zero, body.Shown.Root);
    }
}
