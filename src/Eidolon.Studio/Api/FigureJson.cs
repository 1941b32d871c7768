using System.Numerics;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Api;

/// <summary>Figures, props and their samples as the Stage reads them.</summary>
internal static class FigureJson
{
    /// <param name="kind">performer, character, or solve for one of several of a performer.</param>
    /// <param name="mesh">Address of its GLB.</param>
    /// <param name="samples">Address of its motion.</param>
    /// <param name="state">Name of the motion; another name, another motion.</param>
    public static JsonObject Figure(string kind, string name, string mesh, string samples, string state, Motion motion)
    {
        var s = motion.Skeleton;
        var longer = Longer(motion);
        return new JsonObject
        {
            // Bones that have not their own length, per cent at the most: a figure that is shown so says it.
            ["stretched"] = longer.Length == 0 ? null : Math.Round(longer.Max(r => Math.Abs(r - 1)) * 100),
            ["kind"] = kind,
            ["name"] = name,
            ["mesh"] = mesh,
            ["samples"] = samples,
            ["state"] = state,
            ["frames"] = motion.FrameCount,
            ["first"] = motion.FirstFrame,
            ["pelvis"] = Math.Max(0, s.IndexOf(BodyRole.Pelvis)),
            ["joints"] = new JsonArray([
                .. s.Joints.Select(
                    (j, i) =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = j.Name,
                                ["parent"] = j.Parent,
                                ["role"] = j.Role?.ToString(),
                                ["side"] = j.Role is { } r ? BodyRoles.Side(r).ToString() : "C",
                                ["offset"] = new JsonArray(j.Offset.X, j.Offset.Y, j.Offset.Z),
                                ["longer"] = longer.Length == 0 || longer[i] == 1 ? null : longer[i],
                            }
                ),
            ]),
        };
    }

    /// <summary>How many times its own length the bone to each joint has throughout a motion; none where all have their own.</summary>
    private static float[] Longer(Motion motion)
    {
        var s = motion.Skeleton;
        if (motion.FrameCount == 0)
        {
            return [];
        }

        var first = motion.TranslationsAt(0);
        var ratios = new float[s.Count];
        for (var j = 0; j < ratios.Length; j++)
        {
            var (own, now) = (s[j].Offset.Length(), first[j].Length());
            var bone = s.Parents[j] >= 0 && s[j].Role is not BodyRole.Pelvis && own > 1e-3f;
            ratios[j] = bone && MathF.Abs(now - own) > 1e-3f ? now / own : 1;
        }

        return ratios.All(r => r == 1) ? [] : ratios;
    }

    /// <summary>A prop: its markers to draw it by, its model if it has one, and where its places are to be had.</summary>
    public static JsonObject Prop(string name, RigidBody? body, string? model, string samples, string state, PropPlaces places) =>
        new()
        {
            ["name"] = name,
            ["model"] = model,
            ["samples"] = samples,
            ["state"] = state,
            ["frames"] = places.FrameCount,
            ["markers"] = new JsonArray([.. (body?.Markers ?? []).Select(m => (JsonNode)new JsonArray(m.X, m.Y, m.Z))]),
        };

    /// <summary>Per frame: place and turn of a prop, seven float32; NaN where it cannot be told.</summary>
    public static byte[] PlaceBytes(PropPlaces places)
    {
        var floats = new float[places.FrameCount * SampleStore.PlaceFloats];
        for (var f = 0; f < places.FrameCount; f++)
        {
            SampleStore.Place(places.Positions[f], places.Turns[f], floats.AsSpan(f * SampleStore.PlaceFloats));
        }

        return MemoryMarshal.AsBytes<float>(floats).ToArray();
    }

    /// <summary>A face that was recorded: the names of its weights and where they are to be had; shapes of the same names follow them.</summary>
    public static JsonObject Face(Motion motion, string weights) =>
        new() { ["names"] = new JsonArray([.. motion.Morphs.Keys.Select(n => (JsonNode)n)]), ["weights"] = weights };

    /// <summary>Per frame: every weight in the order of the names, float32.</summary>
    public static byte[] MorphBytes(Motion motion)
    {
        float[][] all = [.. motion.Morphs.Values];
        var floats = new float[motion.FrameCount * all.Length];
        for (var f = 0; f < motion.FrameCount; f++)
        {
            for (var k = 0; k < all.Length; k++)
            {
                floats[(f * all.Length) + k] = all[k][f];
            }
        }

        return MemoryMarshal.AsBytes<float>(floats).ToArray();
    }

    /// <summary>Per frame: the pelvis' place (3 floats) and every joint's local turn (4 floats).</summary>
    /// <param name="from">First frame; null for the beginning.</param>
    /// <param name="to">The frame after the last; null for the end.</param>
    public static byte[] MotionBytes(Motion motion, int? from = null, int? to = null)
    {
        var n = motion.Skeleton.Count;
        var pelvis = Math.Max(0, motion.Skeleton.IndexOf(BodyRole.Pelvis));
        var first = Math.Clamp(from ?? 0, 0, motion.FrameCount);
        var count = Math.Clamp(to ?? motion.FrameCount, first, motion.FrameCount) - first;
        var floats = new float[count * (3 + (4 * n))];
        for (var f = 0; f < count; f++)
        {
            var at = f * (3 + (4 * n));
            var p = motion.TranslationsAt(first + f)[pelvis];
            (floats[at], floats[at + 1], floats[at + 2]) = (p.X, p.Y, p.Z);
            MemoryMarshal.Cast<Quaternion, float>(motion.RotationsAt(first + f)).CopyTo(floats.AsSpan(at + 3));
        }

        return MemoryMarshal.AsBytes<float>(floats).ToArray();
    }
}
