using System.Numerics;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Video;

/// <summary>What a witness camera's tracker says of the nearest performer, and strokes that draw the picture it saw.</summary>
public static class WitnessSimulator
{
    public const int Width = 1920;
    public const int Height = 1080;

    /// <summary>The three cameras: quay side, stairs, shed.</summary>
    public static IReadOnlyList<CameraModel> Cameras { get; } =
    [
        CameraModel.Nominal("quay side", Width, Height, 1800).LookingAt(new(0.6, 1.5, 5.6), new(0, 0.95, 0)),
        CameraModel.Nominal("stairs", Width, Height, 1500).LookingAt(new(5.6, 1.8, 2.8), new(0, 0.9, 0)),
        CameraModel.Nominal("shed", Width, Height, 1500).LookingAt(new(-5.2, 1.4, 3.4), new(0, 0.9, 0)),
    ];

    /// <summary>[frame · <see cref="WitnessPoints.Values"/>] of one camera.</summary>
    public static float[] See(Performance performance, int camera, int seed)
    {
        var model = Cameras[camera];
        var eye = model.Position.ToSingle();
        var random = new Random(seed);
        var volumes = performance.Actors.Select(a => new BodyVolume(a.Motion.Skeleton, a.Person.Stature)).ToArray();
        var capsules = new (Vector3 A, Vector3 B, float R)[volumes.Sum(v => v.Count)];
        var values = new float[performance.FrameCount * WitnessPoints.Values];
        var tracked = performance.Actors[0];
        var hands = new WitnessHands(tracked.Motion.Skeleton, tracked.Person.Stature);
        var (turns, places) = (new Quaternion[64], new Vector3[64]);
        for (var f = 0; f < performance.FrameCount; f++)
        {
            var at = 0;
            var row = values.AsSpan(f * WitnessPoints.Values, WitnessPoints.Values);
            for (var a = 0; a < volumes.Length; a++)
            {
                ForwardKinematics.World(performance.Actors[a].Motion, f, turns, places);
                volumes[a].Place(turns, places, capsules.AsSpan(at));
                at += volumes[a].Count;
            }

            ForwardKinematics.World(tracked.Motion, f, turns, places);
            Points(row, model, eye, tracked, hands, turns, places, capsules, random);
            Draw(row[(WitnessPoints.Count * 3)..], model, eye, capsules);
        }

        return values;
    }

    private static void Points(
        Span<float> row,
        CameraModel camera,
        Vector3 eye,
        Performance.Actor actor,
        WitnessHands hands,
        Quaternion[] turns,
        Vector3[] places,
        (Vector3, Vector3, float)[] capsules,
        Random random
    )
    {
        var body = actor.Motion.Skeleton;
        for (var i = 0; i < WitnessPoints.BodyCount; i++)
        {
            var (_, role, offset) = WitnessBody.Body[i];
            var j = body.IndexOf(role);
            One(row, i, camera, eye, places[j] + Vector3.Transform(offset * actor.Person.Stature, turns[j]), capsules, random);
        }

        for (var side = 0; side < 2; side++)
        {
            for (var k = 0; k < WitnessPoints.HandCount; k++)
            {
                One(
                    row,
                    WitnessPoints.BodyCount + (side * WitnessPoints.HandCount) + k,
                    camera,
                    eye,
                    hands.At(side, k, turns, places),
                    capsules,
                    random
                );
            }
        }
    }

    private static void One(
        Span<float> row,
        int i,
        CameraModel camera,
        Vector3 eye,
        Vector3 place,
        (Vector3, Vector3, float)[] capsules,
        Random random
    )
    {
        var inside = camera.TryProject(place, out var u, out var v);
        var clear = inside && !BodyVolume.Hides(capsules, eye, place + (Vector3.Normalize(eye - place) * 0.08f));
        var confidence =
            !inside || random.NextSingle() < 0.02f ? 0
            : clear ? 0.85f + (0.14f * random.NextSingle())
            : 0.25f + (0.25f * random.NextSingle());
        var noise = clear ? 3f : 14f;
        (row[i * 3], row[(i * 3) + 1], row[(i * 3) + 2]) =
            confidence == 0
                ? (0, 0, 0)
                : ((float)u + (MarkerSimulator.Gauss(random) * noise), (float)v + (MarkerSimulator.Gauss(random) * noise), confidence);
    }

    private static void Draw(Span<float> strokes, CameraModel camera, Vector3 eye, (Vector3 A, Vector3 B, float R)[] capsules)
    {
        strokes.Clear();
        var n = 0;
        foreach (var (a, b, r) in capsules.OrderByDescending(c => (((c.A + c.B) / 2) - eye).LengthSquared()).Take(WitnessPoints.Strokes))
        {
            var seen = camera.TryProject(a, out var ua, out var va);
            if (camera.TryProject(b, out var ub, out var vb) && seen)
            {
                var wide = 2 * r * camera.Focal / (((a + b) / 2) - eye).Length();
                (strokes[n], strokes[n + 1], strokes[n + 2], strokes[n + 3], strokes[n + 4]) = (
                    (float)ua,
                    (float)va,
                    (float)ub,
                    (float)vb,
                    (float)wide
                );
                n += WitnessPoints.StrokeValues;
            }
        }
    }
}
