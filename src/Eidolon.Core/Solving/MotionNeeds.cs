using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>How far joints must turn in a measuring take for their centres to be found, and what it costs where they do not.</summary>
/// <remarks>
/// A centre of turning is told by turning. Costs are what measuring from a T-pose alone left on five people whose proportions no table has (RMS over
/// a walk, <c>MotionNeedsTests</c>).
/// </remarks>
public static class MotionNeeds
{
    /// <summary>So many kinds of joints that lack motion are told in one sentence.</summary>
    private const int Nobody = 7;

    private static readonly (string Stem, string Words, double Degrees, int Millimetres)[] Table =
    [
        ("SpineUpper", "back", 12, 24),
        ("Head", "head", 20, 27),
        ("UpperArm", "shoulder", 45, 24),
        ("Forearm", "elbow", 40, 20),
        ("Hand", "wrist", 20, 39),
        ("Thigh", "hip", 25, 36),
        ("Shin", "knee", 35, 51),
        ("Foot", "ankle", 12, 33),
    ];

    /// <summary>One joint that turned too little.</summary>
    /// <param name="Words">"left knee".</param>
    /// <param name="Degrees">How far it turned.</param>
    /// <param name="Needed">How far it should.</param>
    /// <param name="Millimetres">How far its centre may be off.</param>
    public sealed record Lack(BodyRole Role, string Words, double Degrees, double Needed, int Millimetres);

    /// <summary>Joints that turned too little, the costliest first.</summary>
    /// <param name="moved">How far each joint turned, radians, by role name; joints that are not there do not count.</param>
    public static IReadOnlyList<Lack> Of(IReadOnlyDictionary<string, double> moved)
    {
        var lacks = new List<Lack>();
        foreach (var (stem, words, needed, cost) in Table)
        {
            foreach (var side in new[] { "", "L", "R" })
            {
                if (!moved.TryGetValue(stem + side, out var turned) || turned * 180 / Math.PI is var degrees && degrees >= needed)
                {
                    continue;
                }

                var name = side switch
                {
                    "L" => "left " + words,
                    "R" => "right " + words,
                    _ => words,
                };
                var share = 1 - (degrees / needed);
                lacks.Add(new Lack(Enum.Parse<BodyRole>(stem + side), name, degrees, needed, Math.Max(5, (int)Math.Round(cost * share))));
            }
        }

        return [.. lacks.OrderByDescending(l => l.Millimetres)];
    }

    /// <summary>What is lacking in words; nothing when every joint turned enough.</summary>
    public static IEnumerable<string> Told(IReadOnlyList<Lack> lacks)
    {
        if (lacks.Select(l => BodyRoles.Stem(l.Role)).Distinct().Count() >= Nobody)
        {
            yield return "hardly a joint turns in this take: the body is measured from its pose alone, joint centres may be "
                + $"{lacks.Min(l => l.Millimetres)} to {lacks.Max(l => l.Millimetres)} mm off (the {lacks[0].Words} most)";
            yield break;
        }

        foreach (var l in lacks)
        {
            yield return $"the {l.Words} turns by {l.Degrees:0}° in this take, {l.Needed:0}° would tell where it is: "
                + $"its centre may be {l.Millimetres} mm off";
        }
    }
}
