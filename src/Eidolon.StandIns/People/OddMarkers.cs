using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.People;

/// <summary>Marker sets of other crews: fewer or more markers than Harbour 53, taped a little elsewhere, under names that say nothing.</summary>
public static class OddMarkers
{
    /// <summary>The least that tells every bone; the rest is added one after the other.</summary>
    private static readonly string[] First =
    [
        "Crown",
        "BrowL",
        "NapeR",
        "Breastbone",
        "SpineHigh",
        "Collar",
        "HipFrontL",
        "HipFrontR",
        "HipBackL",
        "HipBackR",
        "ShoulderL",
        "ShoulderR",
        "ElbowOutL",
        "ElbowOutR",
        "WristThumbL",
        "WristThumbR",
        "WristLittleL",
        "WristLittleR",
        "KnuckleInL",
        "KnuckleInR",
        "KneeOutL",
        "KneeOutR",
        "AnkleOutL",
        "AnkleOutR",
        "HeelL",
        "HeelR",
        "BallOutL",
        "BallOutR",
        "ThighL",
        "ThighR",
        "ShinL",
        "ShinR",
        "BallInL",
        "BallInR",
        "UpperArmL",
        "UpperArmR",
        "BrowR",
        "NapeL",
        "BladeL",
        "BladeR",
    ];

    /// <summary>Name, bone and place (share of stature) of so many markers, 30 to 80.</summary>
    public static IReadOnlyList<(string Name, BodyRole Role, Vector3 Offset)> Rows(int count, int seed)
    {
        var random = new Random(seed);
        float Off(float most) => (random.NextSingle() - 0.5f) * 2 * most;
        var all = HarbourMarkers.Rows().ToList();
        var chosen = all.OrderBy(r => Array.IndexOf(First, r.Name) is var i && i < 0 ? 1000 : i).Take(Math.Min(count, all.Count)).ToList();
        while (chosen.Count < count)
        {
            // Between two of the same bone, a finger's width beside.
            var a = all[random.Next(all.Count)];
            var mates = all.Where(r => r.Role == a.Role && r.Name != a.Name).ToArray();
            var b = mates.Length == 0 ? a : mates[random.Next(mates.Length)];
            var at =
                Vector3.Lerp(a.Offset, b.Offset, 0.3f + (0.4f * random.NextSingle())) + new Vector3(Off(.012f), Off(.012f), Off(.012f));
            if (chosen.TrueForAll(c => c.Role != a.Role || (c.Offset - at).Length() > 0.016f))
            {
                chosen.Add(("?", a.Role, at));
            }
        }

        return
        [
            .. chosen.Select(
                (r, i) =>
                    (
                        $"q{(i * 37 % 101) + 100}",
                        r.Role,
                        r.Offset + (i < all.Count ? new Vector3(Off(.004f), Off(.004f), Off(.004f)) : Vector3.Zero)
                    )
            ),
        ];
    }

    /// <summary>The set as its crew knows it: names and bones.</summary>
    public static MarkerSet Set(int count, int seed) =>
        new($"Odd {count}", [.. Rows(count, seed).Select(r => new MarkerDefinition(r.Name, r.Role, null))], []);
}
