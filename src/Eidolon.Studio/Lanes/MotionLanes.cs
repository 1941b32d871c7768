using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Studio.Services;
using static Eidolon.Studio.Lanes.LaneParts;

namespace Eidolon.Studio.Lanes;

/// <summary>Lanes of what performers and characters did: residuals, contacts, drift from the performer, clipping.</summary>
internal static class MotionLanes
{
    /// <summary>A residual of this many millimetres is as hot as a lane gets: skin seldom goes so far.</summary>
    private const double HotMillimetres = 25;

    /// <summary>Solve: how well the skeletons fit, over time, and what is planted.</summary>
    public static JsonArray Solve(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        var several = open.Performers.Count > 1;
        foreach (var role in open.Solved)
        {
            if (role.Suit)
            {
                AddField(lanes, several ? role.Name + " " : string.Empty, role);
            }
            else if (FilmView.Of(role) is { } films)
            {
                FilmLanes.Add(lanes, films);
            }
            else if (open.Resources.Performers().FirstOrDefault(p => p.Subject == role.Node.SubjectId) is { } who)
            {
                AddResiduals(lanes, several ? role.Name + " " : string.Empty, who, role.Motion!, open.Marked);
            }
        }

        if (lanes.Count == 0 && !open.Unmarked.Any())
        {
            return MarkerLanes.Clean(open, gaps);
        }

        AddContacts(lanes, open.Solved);
        foreach (var role in open.Solved)
        {
            HandLanes.Add(lanes, several ? role.Name + " " : string.Empty, role);
        }

        AddProps(lanes, open);
        return lanes;
    }

    /// <summary>How far the markers of each part of the body are from where the skeleton carries them: heat over time, the same for every take.</summary>
    private static void AddResiduals(JsonArray lanes, string name, TakePerformer who, Motion motion, MarkerTake take)
    {
        var offsets = new BoneOffsets(who.Body, motion, CarriedMarkers.Own(who.Prefix, take));
        foreach (
            var part in Enumerable
                .Range(0, who.Body.Markers.Count)
                .GroupBy(m => BodyRoles.Part(who.Body.Skeleton[who.Body.Markers[m].Joint].Role ?? BodyRole.Root))
                .OrderBy(g => Order(g.Key))
        )
        {
            var residuals = offsets.Residuals([.. part]);
            if (residuals.Max() is not { } worst)
            {
                continue;
            }

            lanes.Add(
                (JsonNode)Lane(
                    name + PartName(part.Key),
                    SideOfPart(part.Key),
                    "heat",
                    $"worst {worst:0} mm",
                    ("values", Compress(residuals)),
                    ("scale", HotMillimetres)
                )
            );
        }
    }

    /// <summary>How far the magnetic field was off at each part of the body while it was disturbed: heat over time.</summary>
    private static void AddField(JsonArray lanes, string name, OpenTake.Role role)
    {
        const double hot = 15;
        var disturbed = (role.Solved?.Report["disturbed"] as JsonArray ?? []).Select(d =>
            (Bone: Enum.Parse<BodyRole>((string)d!["bone"]!), Start: (int)d["start"]!, End: (int)d["end"]!, Field: (double)d["microtesla"]!)
        );
        foreach (var part in disturbed.GroupBy(d => BodyRoles.Part(d.Bone)).OrderBy(g => Order(g.Key)))
        {
            var values = new double?[role.Motion!.FrameCount];
            foreach (var d in part)
            {
                for (var f = d.Start; f <= Math.Min(d.End, values.Length - 1); f++)
                {
                    values[f] = Math.Max(values[f] ?? 0, d.Field);
                }
            }

            lanes.Add(
                (JsonNode)Lane(
                    name + PartName(part.Key),
                    SideOfPart(part.Key),
                    "heat",
                    $"field off by {part.Max(d => d.Field):0} µT",
                    ("values", Compress(values)),
                    ("scale", hot)
                )
            );
        }
    }

    /// <summary>Retarget: each cast's hands and feet against the performer's, clipping, held feet.</summary>
    public static JsonArray Retarget(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        foreach (var cast in open.Played)
        {
            var source = open.Performers.FirstOrDefault(p => p.Node.SubjectId == cast.Node.SubjectId)?.Motion;
            if (source is not null && cast.State.Last("retarget") is { } result)
            {
                var setup = RetargetOperation.SetupFrom(cast.State.Node.Entries.Last(e => e.Operation == "retarget").Parameters);
                var ground = (float)((double?)result.Report["groundMetres"] ?? 0);
                AddCast(
                    lanes,
                    open.Casts.Count > 1 ? cast.Name + " " : string.Empty,
                    HoldDrift.Of(source, cast.Motion!, setup, ground),
                    setup,
                    cast.Motion!,
                    result.Report,
                    cast.State.Latest("clipping") as JsonArray ?? []
                );
            }
        }

        return lanes.Count > 0 ? lanes : Solve(open, gaps);
    }

    /// <summary>What is planted, performer by performer.</summary>
    public static void AddContacts(JsonArray lanes, IEnumerable<OpenTake.Role> roles)
    {
        var all = roles.ToArray();
        foreach (var role in all)
        {
            AddContacts(lanes, all.Length > 1 ? role.Name + " " : string.Empty, role.Node.Id, role.Motion!, role.Contacts);
        }
    }

    private static void AddProps(JsonArray lanes, OpenTake open)
    {
        foreach (var prop in open.Props.Where(p => p.Places is not null))
        {
            var places = prop.Places!;
            var heights = places.Positions.Select(p => MarkerTake.Seen(p) ? (double?)p.Y : null).ToArray();
            lanes.Add(
                (JsonNode)Lane(
                    prop.Name,
                    'P',
                    "area",
                    $"top {heights.Max() ?? 0:0.00} m",
                    ("values", Compress(heights)),
                    ("scale", Math.Max(1, heights.Max() ?? 1))
                )
            );
        }
    }

    private static void AddCast(
        JsonArray lanes,
        string who,
        Dictionary<BodyRole, float[]> drift,
        RetargetSetup setup,
        Motion motion,
        JsonObject report,
        JsonArray clips
    )
    {
        foreach (var (role, values) in drift)
        {
            var free = setup.Hold(role).IsFree;
            // Elbows, knees and the head have a lane only while they are held.
            if (free && role is not (BodyRole.HandL or BodyRole.HandR))
            {
                continue;
            }

            lanes.Add(
                (JsonNode)Lane(
                    who + HoldParts.Name(role) + (free ? string.Empty : ", held"),
                    BodyRoles.Side(role),
                    "area",
                    $"worst {values.Max():0} mm",
                    ("values", Compress([.. values.Select(v => (double?)v)])),
                    ("scale", Math.Max(60, values.Max()))
                )
            );
        }

        var clipping = clips.ToDictionary(c => (int)c!["frame"]!, c => (double)c!["depthMillimetres"]!);
        var depth = Enumerable.Range(0, motion.FrameCount).Select(f => (double?)clipping.GetValueOrDefault(f)).ToArray();
        lanes.Add(
            (JsonNode)Lane(
                who + "Clipping depth",
                'C',
                "bars",
                depth.Max() > 0 ? $"worst {depth.Max():0} mm" : "none",
                ("values", Compress(depth)),
                ("scale", Math.Max(30, depth.Max() ?? 0)),
                ("must", true)
            )
        );
        AddHeld(lanes, who, report["contacts"] as JsonArray ?? []);
    }

    /// <summary>Feet, hands and knees, and the seat, each with what a person has decided; blocks: first frame, last frame, point, by hand.</summary>
    internal static void AddContacts(JsonArray lanes, string who, int node, Motion motion, IReadOnlyList<ContactEdit> edits) =>
        AddContacts(lanes, who, node, motion.FirstFrame, BodyContacts.Find(motion, edits).Points, edits);

    /// <param name="first">Number of the motion's first frame.</param>
    internal static void AddContacts(
        JsonArray lanes,
        string who,
        int node,
        int first,
        IReadOnlyList<PointContact> contacts,
        IReadOnlyList<ContactEdit> edits
    )
    {
        bool ByHand(PointContact c) =>
            edits.Any(e => e.Point == c.Point && e.Side == c.Side && e.Planted && e.Start <= c.End && c.Start <= e.End);
        void Add(string name, char side, PointContact[] own, string tally, string point)
        {
            var blocks = new JsonArray([.. own.Select(c => (JsonNode)new JsonArray(c.Start, c.End, WordOf(c.Point), ByHand(c)))]);
            lanes.Add(
                (JsonNode)Lane(
                    who + name,
                    side,
                    "blocks",
                    edits.Any(e => e.Side == side && own.Any(c => c.Point == e.Point)) ? "by hand" : tally,
                    ("blocks", blocks),
                    (
                        "contact",
                        new JsonObject
                        {
                            ["point"] = point,
                            ["node"] = node,
                            ["first"] = first,
                        }
                    )
                )
            );
        }

        foreach (var side in "LR")
        {
            var own = contacts.Where(c => c.Side == side).ToArray();
            var feet = own.Where(c => c.Point is ContactPoint.Heel or ContactPoint.Toe).ToArray();
            Add("Foot planted", side, feet, $"{feet.Count(c => c.Point == ContactPoint.Heel)} plants", "heel");
            var floor = own.Except(feet).ToArray();
            if (floor.Length > 0)
            {
                Add("Hand, knee down", side, floor, $"{floor.Length} times", "knee");
            }
        }

        var seat = contacts.Where(c => c.Point == ContactPoint.Seat).ToArray();
        if (seat.Length > 0)
        {
            Add("Seated", 'C', seat, $"{seat.Length} times", "seat");
        }
    }

    private static string WordOf(ContactPoint point) => point == ContactPoint.Toe ? "toes" : point.ToString().ToLowerInvariant();

    private static void AddHeld(JsonArray lanes, string who, JsonArray contacts)
    {
        foreach (var side in "LR")
        {
            var own = contacts.Where(c => ((string)c!["role"]!)[^1] == side).ToArray();
            var worst = own.Select(c => (double)c!["slideMillimetres"]!).DefaultIfEmpty(0).Max();
            lanes.Add(
                (JsonNode)Lane(
                    who + "Foot planted",
                    side,
                    "blocks",
                    $"worst {worst:0.0} mm",
                    (
                        "blocks",
                        new JsonArray([
                            .. own.Select(c =>
                                (JsonNode)
                                    new JsonArray(
                                        (int)c!["start"]!,
                                        (int)c["end"]!,
                                        ((string)c["role"]!).StartsWith("Foot", StringComparison.Ordinal) ? "heel" : "toes"
                                    )
                            ),
                        ])
                    )
                )
            );
        }
    }
}
