using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Api;

/// <summary>Where the tracks of a scene go, for trails, the plan from above and echoes: the browser need not have their motions for it.</summary>
internal static class WayJson
{
    /// <summary>A way in steps of so many frames, and no more of them than a plan has room for.</summary>
    private const int Step = 6,
        MostSteps = 1500;

    /// <summary>An echo every so many frames at least, and no more of them than can be told apart.</summary>
    private const int Every = 24,
        MostEchoes = 14;

    /// <summary>
    /// Of each track: its node, step (frames), path (x, y, z of the hips a step, metres), echoes [{frame, places (x, y, z of every joint)}].
    /// </summary>
    public static JsonArray Of(IEnumerable<OpenScene.Track> tracks) => [.. tracks.Select(t => (JsonNode)Way(t.Node.Id, t.Motion!))];

    private static JsonObject Way(int node, Motion motion)
    {
        var s = motion.Skeleton;
        var pelvis = Math.Max(0, s.IndexOf(BodyRole.Pelvis));
        var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        var step = Math.Max(Step, (motion.FrameCount + MostSteps - 1) / MostSteps);
        var apart = Math.Max(Every, (motion.FrameCount + MostEchoes - 1) / MostEchoes);
        var (path, echoes) = (new JsonArray(), new JsonArray());
        for (var f = 0; f < motion.FrameCount; f += step)
        {
            ForwardKinematics.World(motion, f, turns, places);
            Add(path, places[pelvis]);
        }

        for (var f = 0; f < motion.FrameCount; f += apart)
        {
            ForwardKinematics.World(motion, f, turns, places);
            var all = new JsonArray();
            foreach (var p in places)
            {
                Add(all, p);
            }

            echoes.Add((JsonNode)new JsonObject { ["frame"] = f, ["places"] = all });
        }

        return new JsonObject
        {
            ["node"] = node,
            ["step"] = step,
            ["path"] = path,
            ["echoes"] = echoes,
        };
    }

    /// <summary>To the millimetre.</summary>
    private static void Add(JsonArray list, Vector3 place)
    {
        foreach (var v in new[] { place.X, place.Y, place.Z })
        {
            list.Add((JsonNode)Math.Round(v, 3));
        }
    }
}
