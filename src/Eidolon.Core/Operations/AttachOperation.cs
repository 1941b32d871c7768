using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>A prop that is attached to hands of the characters in a take: it goes where they go.</summary>
public static class AttachOperation
{
    private const float MostMillimetres = 1000,
        MostDegrees = 180;

    /// <summary>
    /// Parameters: hands [{cast (a node of the take), hand (HandL, HandR), start, end (frames, both inside), stays (let go it stays where it is)}], who
    /// leads first; offset ([left, up, ahead] mm, in the axes of the leading hand in the T-pose), turn ([about left, up, ahead] degrees). The node's inputs
    /// are the prop's places, then for each cast that is named, in order, its performer's motion and its own.
    /// </summary>
    public static Operation Attach { get; } = new("attach", 1, NodeKind.Attached, "Retarget", "Attach", (input, p, c) =>
        {
            var places = input.Own as PlacesValue ?? throw new RefusedException("the prop is not found in this take yet");
            var hands = HandsOf(p);
            if (hands.Count == 0)
            {
                throw new RefusedException("it is attached to no hand");
            }

            var casts = Casts(hands);
            var motions = input.Inputs.OfType<MotionValue>().Select(m => m.Motion).ToList();
            if (motions.Count != 2 * casts.Count)
            {
                throw new RefusedException("a cast whose hand has it is gone, or has no motion yet");
            }

            var (moved, report) = PropCarrier.Carry(
                places.Places,
                [
                    .. hands.Select(h =>
                    {
                        var i = 2 * casts.IndexOf(h.Cast);
                        return new CarryingHand(motions[i], motions[i + 1], h.Hand, h.Start, h.End, h.Stays);
                    }),
                ],
                Three(p, "offset", MostMillimetres) / 1000,
                Turn(Three(p, "turn", MostDegrees) * (MathF.PI / 180)),
                c.Cancel
            );
            var worst = report.Drift.Max(d => d.Millimetres);
            return new OperationResult(
                new PlacesValue(moved),
                $"{hands.Count} hold{(hands.Count == 1 ? string.Empty : "s")}, hands within {worst:0} mm",
                new JsonObject
                {
                    ["hands"] = new JsonArray([
                        .. report.Drift.Select(d =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["cast"] = hands[d.Hand].Cast,
                                    ["hand"] = hands[d.Hand].Hand.ToString(),
                                    ["start"] = hands[d.Hand].Start,
                                    ["end"] = hands[d.Hand].End,
                                    ["millimetres"] = Math.Round(d.Millimetres, 1),
                                    ["frame"] = d.Frame,
                                }
                        ),
                    ]),
                    ["movedMetres"] = Math.Round(report.MovedMetres, 3),
                }
            );
        }) { SetUp = true, FitsRecipe = _ => false };

    /// <summary>A hand as the parameters name it.</summary>
    /// <param name="Cast">The node of the character's motion.</param>
    /// <param name="Stays">Let go, the prop stays where it is.</param>
    public sealed record Hold(int Cast, BodyRole Hand, int Start, int End, bool Stays = false);

    /// <summary>Holds as parameters.</summary>
    public static JsonObject ParametersOf(IEnumerable<Hold> hands) =>
        new()
        {
            ["hands"] = new JsonArray([
                .. hands.Select(h =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["cast"] = h.Cast,
                            ["hand"] = h.Hand.ToString(),
                            ["start"] = h.Start,
                            ["end"] = h.End,
                            ["stays"] = h.Stays,
                        }
                ),
            ]),
        };

    /// <summary>The hands that parameters name, who leads first.</summary>
    /// <exception cref="RefusedException">They are no list of hands; says which and why.</exception>
    public static IReadOnlyList<Hold> HandsOf(JsonObject p) =>
        [
            .. (p["hands"] as JsonArray ?? [])
                .Select(h => h as JsonObject ?? throw new RefusedException("each hand must be an object"))
                .Select(h => new Hold(h.Whole("cast", 0), h.Hand(), h.Whole("start", 0), h.Whole("end", 0), h.Flag("stays", false)))
                .Select(h =>
                    h.Start >= 0 && h.End >= h.Start
                        ? h
                        : throw new RefusedException($"a hand holds from a frame to a later one, not from {h.Start} to {h.End}")
                ),
        ];

    /// <summary>Casts that hands belong to, each once, in order: the node stands on them.</summary>
    public static IReadOnlyList<int> CastsOf(JsonObject p) => Casts(HandsOf(p));

    /// <summary>For each cast that has hold of one prop with both hands: when, and which of them leads; so that the other can be brought along.</summary>
    /// <param name="props">The hands that have a prop, who leads first; a list for each prop.</param>
    public static IReadOnlyDictionary<int, IReadOnlyList<JoinedHands>> BothOf(IEnumerable<IEnumerable<Hold>> props) =>
        props
            .SelectMany(hands => hands.GroupBy(h => h.Cast))
            .SelectMany(g =>
                from lead in g.Where(h => h.Hand == g.First().Hand)
                from other in g.Where(h => h.Hand != lead.Hand)
                let both = new JoinedHands(lead.Hand, Math.Max(lead.Start, other.Start), Math.Min(lead.End, other.End))
                where both.Start <= both.End
                select (g.Key, Both: both)
            )
            .GroupBy(x => x.Key, x => x.Both)
            .ToDictionary(g => g.Key, g => (IReadOnlyList<JoinedHands>)[.. g.OrderBy(b => b.Start)]);

    private static List<int> Casts(IEnumerable<Hold> hands) => [.. hands.Select(h => h.Cast).Distinct()];

    private static Quaternion Turn(Vector3 about) =>
        Quaternion.CreateFromAxisAngle(Vector3.UnitY, about.Y)
        * Quaternion.CreateFromAxisAngle(Vector3.UnitX, about.X)
        * Quaternion.CreateFromAxisAngle(Vector3.UnitZ, about.Z);

    private static Vector3 Three(JsonObject p, string name, float most) =>
        p[name] is not { } given
            ? default
            : Parameters.Three(given, most) ?? throw new RefusedException($"'{name}' must be three numbers, {-most:0} to {most:0}");
}
