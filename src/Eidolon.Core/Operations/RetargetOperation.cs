using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Clipping;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>From a performer to a character it plays.</summary>
public static class RetargetOperation
{
    /// <summary>Parameters: travel (scaled, footprints), place, turn (role → 0 to 100), offset (role → [left, up, ahead] mm), keys (role →
    /// [{frame, place, turn}]), floor (m), feetFlat, lean (0 to 100). The character is the cast's own.</summary>
    public static Operation Retarget { get; } = new("retarget", 5, NodeKind.Cast, "Retarget", "Retarget", (input, p, c) =>
        {
            var source = input.Inputs.OfType<MotionValue>().FirstOrDefault() ?? throw new RefusedException("the take is not solved yet");
            var setup = SetupFrom(p) with { Contacts = source.Contacts };
            var character = c.Resources.Character(c.Scope.Target);
            var (motion, report) = Retargeter.Retarget(
                source.Motion,
                character,
                setup,
                c.Resources.Volumes(c.Scope.Target),
                c.Cancel,
                c.Progress
            );
            var worst = report.Contacts.Select(x => x.SlideMillimetres).DefaultIfEmpty(0).Max();
            return new OperationResult(
                new MotionValue(motion) { Contacts = source.Contacts },
                $"feet slide {worst:0.0} mm",
                RetargetJson(report)
            );
        }) { SetUp = true, Reads = (scope, _) => [new(ResourceKind.Character, scope.Target)] };

    /// <summary>Arms out of the body they went into. No parameters.</summary>
    public static Operation PushOut { get; } = new("push-out", 1, NodeKind.Cast, "Retarget", "Push out", (input, _, c) =>
        {
            var played = input.Moving("retarget first");
            var (motion, report) = Clipping.PushOut.Apply(played.Motion, c.Resources.Volumes(c.Scope.Target), c.Cancel, c.Progress);
            return new OperationResult(
                played with
                {
                    Motion = motion,
                },
                report.Before.Count == 0 ? "nothing was inside"
                    : report.After.Count == 0 ? $"{report.Before.Count} frames freed"
                    : $"{report.Before.Count - report.After.Count} of {report.Before.Count} frames freed",
                PushOutJson(report)
            );
        }) { Reads = (scope, _) => [new(ResourceKind.Character, scope.Target)] };

    /// <summary>
    /// Hands lie to each other as the performer's did while both have hold of one thing; parameters: hands [{lead (HandL, HandR), start, end (frames,
    /// both inside)}]. It stands on the performer's motion as well.
    /// </summary>
    public static Operation Together { get; } =
        new("together", 1, NodeKind.Cast, "Retarget", "Hands together", (input, p, c) =>
        {
            var played = input.Moving("retarget first");
            var source = input.Inputs.OfType<MotionValue>().FirstOrDefault() ?? throw new RefusedException("the take is not solved yet");
            var joined = Joined(p);
            var (motion, report) = HandsTogether.Apply(source.Motion, played.Motion, joined, c.Cancel);
            var worst = report.Short.Max(s => s.Millimetres);
            // Arms that were moved clip elsewhere.
            var turns = new Quaternion[motion.Rotations.Length];
            var places = ForwardKinematics.WorldPositions(motion, turns);
            var clipping = ClippingMeasure.Measure(motion, places, turns, c.Resources.Volumes(c.Scope.Target));
            return new OperationResult(
                played with
                {
                    Motion = motion,
                },
                worst < 0.5 ? $"moved by up to {report.MovedMillimetres:0} mm" : $"up to {worst:0} mm out of reach",
                new JsonObject
                {
                    ["movedMillimetres"] = Math.Round(report.MovedMillimetres, 1),
                    ["hands"] = new JsonArray([
                        .. report.Short.Select(s =>
                            (JsonNode)new JsonObject { ["shortMillimetres"] = Math.Round(s.Millimetres, 1), ["frame"] = s.Frame }
                        ),
                    ]),
                    ["clipping"] = ClippingJson(clipping),
                }
            );
        })
        {
            Once = true,
            FitsRecipe = _ => false,
            Reads = (scope, _) => [new(ResourceKind.Character, scope.Target)],
        };

    /// <summary>Parameters of hands that keep to each other.</summary>
    public static JsonObject TogetherParameters(IEnumerable<JoinedHands> hands) =>
        new()
        {
            ["hands"] = new JsonArray([
                .. hands.Select(h =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["lead"] = h.Lead.ToString(),
                            ["start"] = h.Start,
                            ["end"] = h.End,
                        }
                ),
            ]),
        };

    private static List<JoinedHands> Joined(JsonObject p)
    {
        var hands = (p["hands"] as JsonArray ?? [])
            .Select(h => h as JsonObject ?? throw new RefusedException("each hand must be an object"))
            .Select(h => new JoinedHands(h.Hand("lead"), h.Whole("start", 0), h.Whole("end", 0)))
            .ToList();
        return hands.Find(h => h.Start < 0 || h.End < h.Start) is { } bad
                ? throw new RefusedException($"both hands hold from a frame to a later one, not from {bad.Start} to {bad.End}")
            : hands.Count > 0 ? hands
            : throw new RefusedException("nothing is held with both hands");
    }

    /// <summary>
    /// Fingers closed around what hands hold; parameters: hands [{hand (HandL, HandR), start, end (frames, both inside), fingers (thumb to little, 0 straight
    /// to 1 a fist)}].
    /// </summary>
    public static Operation Grip { get; } = new("grip", 1, NodeKind.Cast, "Retarget", "Close the fingers", (input, p, c) =>
        {
            var played = input.Moving("retarget first");
            var hands = Closed(p, played.Motion);
            return new OperationResult(
                played with
                {
                    Motion = GripPose.Apply(played.Motion, hands),
                },
                $"{hands.Count} time{(hands.Count == 1 ? string.Empty : "s")}",
                new JsonObject { ["hands"] = hands.Count }
            );
        }) { Once = true, FitsRecipe = _ => false };

    /// <summary>Parameters of hands that are closed.</summary>
    public static JsonObject GripParameters(IEnumerable<ClosedHand> hands) =>
        new()
        {
            ["hands"] = new JsonArray([
                .. hands.Select(h =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["hand"] = h.Hand.ToString(),
                            ["start"] = h.Start,
                            ["end"] = h.End,
                            ["fingers"] = new JsonArray([.. h.Fingers.Select(f => (JsonNode)Math.Round(f, 2))]),
                        }
                ),
            ]),
        };

    private static List<ClosedHand> Closed(JsonObject p, Motion motion)
    {
        var hands = new List<ClosedHand>();
        foreach (
            var said in (p["hands"] as JsonArray ?? []).Select(h =>
                h as JsonObject ?? throw new RefusedException("each hand must be an object")
            )
        )
        {
            var hand = said.Hand();
            var fingers = (said["fingers"] as JsonArray ?? [])
                .Select(f => f is JsonValue v && v.TryGetValue<double>(out var d) ? d : double.NaN)
                .ToList();
            if (fingers.Count != Hands.HandShape.FingerCount || fingers.Any(f => f is not (>= 0 and <= 1)))
            {
                throw new RefusedException("'fingers' must be five numbers, thumb to little finger, 0 straight to 1 a fist");
            }

            if (!GripPose.Can(motion.Skeleton, hand))
            {
                throw new RefusedException("this character has no fingers to close");
            }

            var (start, end) = (said.Whole("start", 0), said.Whole("end", motion.FrameCount - 1));
            if (start < 0 || end < start)
            {
                throw new RefusedException($"a hand is closed from a frame to a later one, not from {start} to {end}");
            }

            hands.Add(new ClosedHand(hand, start, end, [.. fingers.Select(f => (float)f)]));
        }

        return hands.Count > 0 ? hands : throw new RefusedException("no hand holds anything in this take");
    }

    /// <summary>What pushing out did, in the command line's keys.</summary>
    public static JsonObject PushOutJson(PushOutReport report) =>
        new()
        {
            ["framesBefore"] = report.Before.Count,
            ["framesAfter"] = report.After.Count,
            ["depthBeforeMillimetres"] = Math.Round(PushOutReport.Deepest(report.Before), 2),
            ["depthAfterMillimetres"] = Math.Round(PushOutReport.Deepest(report.After), 2),
            ["handMovedMillimetres"] = Math.Round(report.HandMillimetres, 2),
            ["elbowMovedMillimetres"] = Math.Round(report.ElbowMillimetres, 2),
            ["clipping"] = ClippingJson(report.After),
        };

    /// <summary>A retarget setup from parameters (also the command line's SETUP.json).</summary>
    public static RetargetSetup SetupFrom(JsonObject p)
    {
        var travel = p.Text("travel") ?? "scaled";
        return travel is "scaled" or "footprints"
            ? new RetargetSetup
            {
                ScaleTravel = travel == "scaled",
                Holds = HoldParameters.Read(p),
                FloorHeight = (float)p.Number("floor", 0),
                FeetFlat = p.Flag("feetFlat", true),
                Lean = (float)Percent(p, "lean", 100),
                Spine = (float)Percent(p, "spine", 0, -100),
                Shoulder = (float)Percent(p, "shoulder", 100, 0, 200),
                Twist = (float)Percent(p, "twist", 50),
                CopiedBones = Bones(p),
            }
            : throw new RefusedException("'travel' must be scaled or footprints");
    }

    /// <summary>The parameters of a set-up whose hands are held by keys alone, as <see cref="GripFinder.Meet"/> makes it.</summary>
    public static JsonObject Parameters(RetargetSetup setup) =>
        new() { ["travel"] = setup.ScaleTravel ? "scaled" : "footprints", ["keys"] = HoldParameters.WriteKeys(setup.Holds) };

    private static double Percent(JsonObject p, string key, double usual, double least = 0, double most = 100) =>
        p.Number(key, usual) is var value && value >= least && value <= most
            ? value / 100
            : throw new RefusedException($"'{key}' must be {least} to {most}");

    /// <summary>Bones that take the performer's length: "copyBones", a list of roles they begin at.</summary>
    private static IReadOnlySet<BodyRole> Bones(JsonObject p) =>
        p["copyBones"] switch
        {
            null => new HashSet<BodyRole>(),
            JsonArray list => list.Select(name =>
                    name is JsonValue v
                    && v.TryGetValue<string>(out var said)
                    && BonePolicy.Bones.FirstOrDefault(b => b.Bone.ToString() == said) is { End: not BodyRole.Root } known
                        ? known.Bone
                        : throw new RefusedException(
                            $"'copyBones' knows no bone {name?.ToJsonString()}: {string.Join(", ", BonePolicy.Bones.Select(b => b.Bone))} are"
                        )
                )
                .ToHashSet(),
            _ => throw new RefusedException("'copyBones' must be a list of bones"),
        };

    /// <summary>A retarget report in the command line's keys.</summary>
    public static JsonObject RetargetJson(RetargetReport report) =>
        new()
        {
            ["scale"] = Math.Round(report.Scale, 6),
            ["groundMetres"] = Math.Round(report.Ground, 5),
            ["contacts"] = new JsonArray([
                .. report.Contacts.Select(c =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["joint"] = c.Joint,
                            ["role"] = c.Role.ToString(),
                            ["start"] = c.Start,
                            ["end"] = c.End,
                            ["slideMillimetres"] = Math.Round(c.SlideMillimetres, 4),
                        }
                ),
            ]),
            ["holdErrorMillimetres"] = new JsonObject(
                report.HoldErrors.Select(h => KeyValuePair.Create(h.Key.ToString(), (JsonNode?)Math.Round(h.Value, 4)))
            ),
            ["driftMillimetres"] = new JsonObject(
                report.Drift.Select(d => KeyValuePair.Create(d.Key.ToString(), (JsonNode?)Math.Round(d.Value.DefaultIfEmpty(0).Max(), 2)))
            ),
            ["tooMuchBend"] = new JsonArray([
                .. report.Bends.Select(b =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["role"] = b.Role.ToString(),
                            ["start"] = b.Start,
                            ["end"] = b.End,
                            ["degrees"] = Math.Round(b.Degrees, 1),
                            ["millimetres"] = Math.Round(b.Millimetres, 1),
                        }
                ),
            ]),
            ["fastestTurn"] = new JsonObject
            {
                ["role"] = report.Fastest.Role.ToString(),
                ["frame"] = report.Fastest.Frame,
                ["timesThePerformers"] = Math.Round(report.Fastest.Ratio, 3),
            },
            ["findings"] = FindingJson.Write(report.Findings),
            ["clipping"] = ClippingJson(report.Clipping),
            ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
        };

    /// <summary>Frames in which something is inside something else.</summary>
    private static JsonArray ClippingJson(IEnumerable<ClippingFrame> frames) =>
        new([
            .. frames.Select(c =>
                (JsonNode)
                    new JsonObject
                    {
                        ["frame"] = c.Frame,
                        ["parts"] = new JsonArray(c.PartA, c.PartB),
                        ["depthMillimetres"] = Math.Round(c.DepthMillimetres, 2),
                    }
            ),
        ]);
}
