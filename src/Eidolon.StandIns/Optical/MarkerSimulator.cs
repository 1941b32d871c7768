using System.Numerics;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Optical;

/// <summary>What the camera ring sees of a performance: markers on moving skin, hidden by bodies, with noise.</summary>
public static class MarkerSimulator
{
    /// <summary>How well the ring and the tape work.</summary>
    /// <param name="Noise">Spread of a coordinate, metres.</param>
    /// <param name="SoftTissue">Largest slide of skin over bone, metres.</param>
    /// <param name="Rows">Which markers are worn; Harbour 53 when null.</param>
    /// <param name="MinimumCameras">Cameras needed to see a marker.</param>
    /// <param name="Skin">How skin, straps and suit move; by bends alone, as far as <paramref name="SoftTissue"/> says, when null.</param>
    public sealed record Settings(
        float Noise = 0.0003f,
        float SoftTissue = 0.006f,
        int MinimumCameras = 2,
        float SpikesPerMinute = 6,
        bool Occlusion = true,
        IReadOnlyList<(string Name, BodyRole Role, Vector3 Offset)>? Rows = null,
        Skin? Skin = null
    );

    /// <summary>Labelled markers as seen, <c>Performer:Marker</c> when several perform; hidden ones are NaN.</summary>
    public static MarkerTake Labelled(Performance performance, Settings? settings = null)
    {
        var truth = Truth(performance, settings?.SoftTissue ?? 0.006f, settings?.Rows, settings?.Skin);
        return See(performance, truth, settings ?? new Settings());
    }

    /// <summary>The same with the markers of the props, named <c>Prop:1</c> and so on.</summary>
    public static MarkerTake LabelledWithProps(Performance performance, Settings? settings = null) =>
        See(performance, TruthWithProps(performance, settings?.SoftTissue ?? 0.006f), settings ?? new Settings());

    /// <summary>Where every marker truly is, on its moving skin.</summary>
    public static MarkerTake Truth(
        Performance performance,
        float softTissue,
        IReadOnlyList<(string Name, BodyRole Role, Vector3 Offset)>? worn = null,
        Skin? skin = null
    )
    {
        var many = performance.Actors.Count > 1;
        var rows = (worn ?? [.. HarbourMarkers.Rows(HandSkeleton.HasFingers(performance.Actors[0].Motion.Skeleton))]).ToArray();
        var names = performance.Actors.SelectMany(a => rows.Select(r => many ? $"{a.Person.Name}:{r.Name}" : r.Name)).ToArray();
        var take = new MarkerTake(names, performance.Actors[0].Motion.FrameRate, performance.FrameCount);
        for (var a = 0; a < performance.Actors.Count; a++)
        {
            Wear(performance.Actors[a], rows, take, a * rows.Length, skin ?? new Skin(softTissue));
        }

        return take;
    }

    /// <summary>As <see cref="Truth"/>, with the markers of the props behind, called <c>Crate:1</c> and so on.</summary>
    public static MarkerTake TruthWithProps(Performance performance, float softTissue)
    {
        var people = Truth(performance, softTissue);
        var props = performance
            .Props.SelectMany(p => p.Body.Markers.Select((m, i) => (Prop: p, Name: $"{p.Body.Name}:{i + 1}", Marker: m)))
            .ToArray();
        var take = new MarkerTake([.. people.Names, .. props.Select(p => p.Name)], people.FrameRate, people.FrameCount);
        for (var f = 0; f < take.FrameCount; f++)
        {
            people.At(f).CopyTo(take.At(f));
            for (var i = 0; i < props.Length; i++)
            {
                take[f, people.MarkerCount + i] = props[i].Prop.Places[f] + Vector3.Transform(props[i].Marker, props[i].Prop.Turns[f]);
            }
        }

        return take;
    }

    private static void Wear(
        Performance.Actor actor,
        (string Name, BodyRole Role, Vector3 Offset)[] rows,
        MarkerTake take,
        int first,
        Skin skin
    )
    {
        var random = new Random(actor.Person.Seed * 77);
        var body = actor.Motion.Skeleton;
        // A nail does not slide, and nobody misses it by far.
        float Firm(int m) => BodyRoles.IsFinger(rows[m].Role) ? 0.2f : 1;
        float Jitter() => (random.NextSingle() - 0.5f) * 2 * skin.Tape;
        var joints = Array.ConvertAll(rows, r => body.IndexOf(r.Role));
        var average = Anthropometry.Body(actor.Person.Stature);
        var at = Enumerable.Range(0, rows.Length).ToArray();
        var offsets = Array.ConvertAll(at, m =>
            (rows[m].Offset * actor.Person.Stature * OwnLength(body, average, rows[m].Role))
            + (new Vector3(Jitter(), Jitter(), Jitter()) * Firm(m))
        );
        var slide = Array.ConvertAll(at, m =>
            Vector3.Normalize(new Vector3(Jitter(), Jitter(), Jitter()) + new Vector3(1e-6f))
            * skin.Bend
            * (0.3f + (0.7f * random.NextSingle()))
            * Firm(m)
        );
        var n = take.FrameCount;
        var (carried, turns, bends) = (new Vector3[rows.Length][], new Quaternion[rows.Length][], new float[rows.Length][]);
        for (var m = 0; m < rows.Length; m++)
        {
            (carried[m], turns[m], bends[m]) = (new Vector3[n], new Quaternion[n], new float[n]);
        }

        var rotations = new Quaternion[body.Count];
        var positions = new Vector3[body.Count];
        for (var f = 0; f < n; f++)
        {
            ForwardKinematics.World(actor.Motion, f, rotations, positions);
            var local = actor.Motion.RotationsAt(f);
            for (var m = 0; m < rows.Length; m++)
            {
                var j = joints[m];
                // Skin follows the bend of the joint that moves it, up to its largest slide (compare Leardini 2005).
                var child = Math.Min(j + 1, body.Count - 1);
                bends[m][f] = MathF.Min(
                    1,
                    MathF.Min(1, (1 - MathF.Abs(local[j].W)) * 2.2f)
                        + (body.Parents[child] == j ? MathF.Min(1, (1 - MathF.Abs(local[child].W)) * 2.2f) : 0)
                );
                turns[m][f] = rotations[j];
                carried[m][f] = positions[j] + Vector3.Transform(offsets[m] + (slide[m] * bends[m][f]), rotations[j]);
            }
        }

        for (var m = 0; m < rows.Length; m++)
        {
            if (!skin.Swings)
            {
                for (var f = 0; f < n; f++)
                {
                    take[f, first + m] = carried[m][f];
                }

                continue;
            }

            var j = joints[m];
            var child = body.Children(j).FirstOrDefault(-1);
            var along = child >= 0 ? body[child].Offset : body[j].EndSite ?? Vector3.UnitY;
            var seed = actor.Person.Seed * 77;
            var more = new SkinMotion(skin, rows[m].Role, offsets[m], along, new Random(seed + j), new Random(seed + 1000 + m)).Follow(
                carried[m],
                turns[m],
                bends[m],
                take.FrameRate
            );
            for (var f = 0; f < n; f++)
            {
                take[f, first + m] = carried[m][f] + Vector3.Transform(more[f], turns[m][f]);
            }
        }
    }

    /// <summary>Markers are taped by the look of a limb, so they keep their share of a longer or shorter bone.</summary>
    private static Vector3 OwnLength(Skeleton body, Skeleton average, BodyRole role)
    {
        var child = body.Children(body.IndexOf(role)).FirstOrDefault(-1);
        if (child < 0 || child >= average.Count || BodyRoles.Side(role) == 'C')
        {
            return Vector3.One;
        }

        var ratio = body[child].Offset.Length() / average[child].Offset.Length();
        return BodyRoles.Section(role) is BodySection.Arm or BodySection.Hand ? new Vector3(ratio, 1, 1)
            : role is BodyRole.FootL or BodyRole.FootR ? new Vector3(1, 1, ratio)
            : new Vector3(1, ratio, 1);
    }

    private static MarkerTake See(Performance performance, MarkerTake truth, Settings settings)
    {
        var seed = performance.Actors.Sum(a => a.Seed);
        var volumes = performance.Actors.Select(a => new BodyVolume(a.Motion.Skeleton, a.Person.Stature)).ToArray();
        var take = new MarkerTake(truth.Names, truth.FrameRate, truth.FrameCount);
        var n = truth.MarkerCount;
        Parallel.For(
            0,
            take.FrameCount,
            () => (new Quaternion[64], new Vector3[64], new (Vector3, Vector3, float)[volumes.Sum(v => v.Count)]),
            (f, _, scratch) =>
            {
                var at = 0;
                for (var a = 0; a < volumes.Length && settings.Occlusion; a++)
                {
                    var body = performance.Actors[a].Motion;
                    ForwardKinematics.World(body, f, scratch.Item1, scratch.Item2);
                    volumes[a].Place(scratch.Item1, scratch.Item2, scratch.Item3.AsSpan(at));
                    at += volumes[a].Count;
                }

                var random = new Random((seed * 65537) + f);
                for (var m = 0; m < n; m++)
                {
                    var p = truth[f, m];
                    var noise = new Vector3(Gauss(random), Gauss(random), Gauss(random)) * settings.Noise;
                    if (settings.Occlusion && Cameras(scratch.Item3.AsSpan(0, at), p, settings.MinimumCameras) < settings.MinimumCameras)
                    {
                        continue;
                    }

                    take[f, m] = p + noise;
                }

                return scratch;
            },
            _ => { }
        );
        Spikes(take, settings, new Random(seed + 5));
        return take;
    }

    private static int Cameras(ReadOnlySpan<(Vector3 A, Vector3 B, float R)> capsules, Vector3 p, int enough)
    {
        var seen = 0;
        foreach (var eye in CaptureVolume.Cameras)
        {
            if (!BodyVolume.Hides(capsules, eye, p) && ++seen >= enough)
            {
                break;
            }
        }

        return seen;
    }

    private static void Spikes(MarkerTake take, Settings settings, Random random)
    {
        var count = (int)(settings.SpikesPerMinute * take.FrameCount / take.FrameRate / 60);
        for (var i = 0; i < count; i++)
        {
            int f = random.Next(5, take.FrameCount - 5),
                m = random.Next(take.MarkerCount);
            if (MarkerTake.Seen(take[f, m]))
            {
                take[f, m] += new Vector3(Gauss(random), Gauss(random), Gauss(random)) * 0.02f;
            }
        }
    }

    internal static float Gauss(Random r) => MathF.Sqrt(-2 * MathF.Log(1 - r.NextSingle())) * MathF.Cos(MathF.Tau * r.NextSingle());
}
