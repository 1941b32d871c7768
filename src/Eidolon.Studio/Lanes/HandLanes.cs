using System.Text.Json.Nodes;
using Eidolon.Core.Faces;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;
using static Eidolon.Studio.Lanes.LaneParts;

namespace Eidolon.Studio.Lanes;

/// <summary>Lanes of what fingers and face do: how far each finger is closed, how far the mouth opens and the eyes shut.</summary>
internal static class HandLanes
{
    /// <summary>A finger is shut all the way at a fist.</summary>
    private const double Fist = 100;

    /// <summary>Eyes that shut so far blink.</summary>
    private const float Blink = 0.5f;

    public static void Add(JsonArray lanes, string who, OpenTake.Role role)
    {
        var motion = role.Motion!;
        foreach (var side in "LR")
        {
            for (var finger = 0; finger < HandShape.FingerCount; finger++)
            {
                if (Curls(motion, side, finger) is { } curls)
                {
                    lanes.Add(
                        (JsonNode)Lane(
                            who + HandShape.Names[finger] + " curls",
                            side,
                            "area",
                            $"most {curls.Max():0} %",
                            ("values", Compress(curls)),
                            ("scale", Fist)
                        )
                    );
                }
            }
        }

        if (motion.Morphs.Count == 0)
        {
            return;
        }

        Weight(lanes, who + "Mouth opens", [.. Of(motion, FaceUnits.Jaw).Select(w => (double?)w * 100)], null);
        var shut = Of(motion, FaceUnits.EyeL).Zip(Of(motion, FaceUnits.EyeR), MathF.Max).ToArray();
        var blinks = Enumerable.Range(1, Math.Max(0, shut.Length - 1)).Count(f => shut[f] >= Blink && shut[f - 1] < Blink);
        Weight(lanes, who + "Eyes shut", [.. shut.Select(w => (double?)w * 100)], $"{blinks} blinks");
    }

    /// <summary>How far a finger is closed at every frame, per cent of a fist; null when the motion has none.</summary>
    public static double?[]? Curls(Motion motion, char side, int finger)
    {
        int[] joints = [.. Enumerable.Range(1, 2).Select(k => motion.Skeleton.IndexOf(HandShape.Joint(side, finger, k)))];
        if (joints.Any(j => j < 0))
        {
            return null;
        }

        // Bends alone: sideways does not close a hand.
        var chain = HandShape.Average(side, 1).Fingers[finger];
        return
        [
            .. Enumerable
                .Range(0, motion.FrameCount)
                .Select(f =>
                    (double?)
                        chain
                            .Nearest(
                                motion.RotationsAt(f)[joints[0]],
                                motion.RotationsAt(f)[joints[1]],
                                System.Numerics.Quaternion.Identity
                            )
                            .Curl * 100
                ),
        ];
    }

    private static void Weight(JsonArray lanes, string name, double?[] values, string? tally) =>
        lanes.Add(
            (JsonNode)Lane(name, 'C', "area", tally ?? $"most {values.Max() ?? 0:0} %", ("values", Compress(values)), ("scale", 100.0))
        );

    private static float[] Of(Motion motion, string name) => motion.Morphs.TryGetValue(name, out var w) ? w : new float[motion.FrameCount];
}
