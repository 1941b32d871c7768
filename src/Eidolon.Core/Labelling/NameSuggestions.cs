using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>The likeliest names of one dot in one frame, from its distances to the named dots around it and from where each name was seen last.</summary>
public static class NameSuggestions
{
    /// <summary>Spread of distances on one segment, metres: skin and cloth.</summary>
    private const double Skin = 0.012;

    /// <summary>Spread of a link over a joint.</summary>
    private const double OverJoint = 0.05;

    /// <summary>Spread of a link over a joint against the body at rest.</summary>
    private const double Bent = 0.1;

    /// <summary>How fast what is known of a hidden marker's place gets lost, metres a frame at 120 frames a second.</summary>
    private const double LostPerFrame = 0.004;

    private const int Most = 3;

    /// <param name="Share">Of 1, among all names that could be.</param>
    public readonly record struct Suggestion(string Name, double Share);

    /// <param name="bodies">Calibrated performers with the prefix of their names; they tell distances that the take has not shown yet.</param>
    public static IReadOnlyList<Suggestion> For(
        MarkerTake take,
        MarkerSet set,
        IReadOnlyList<(string? Prefix, Performer Body)> bodies,
        string dot,
        int frame
    )
    {
        var m = take.IndexOf(dot);
        if (m < 0 || frame < 0 || frame >= take.FrameCount || !MarkerTake.Seen(take[frame, m]))
        {
            return [];
        }

        var prefixes = bodies.Count > 0 ? bodies.Select(b => b.Prefix) : [null];
        var scores = new List<(string Name, double Score)>();
        foreach (var prefix in prefixes)
        {
            var body = bodies.FirstOrDefault(b => b.Prefix == prefix).Body;
            foreach (var marker in set.Markers)
            {
                var name = MarkerNames.Join(prefix, marker.Name);
                var column = take.IndexOf(name);
                // A name that is seen elsewhere in this frame is taken.
                if (name != dot && column >= 0 && MarkerTake.Seen(take[frame, column]))
                {
                    continue;
                }

                if (Score(take, set, prefix, body, marker, column, take[frame, m], frame) is { } score)
                {
                    scores.Add((name, score));
                }
            }
        }

        var best = scores.Select(s => s.Score).DefaultIfEmpty(0).Max();
        var weights = scores.Select(s => (s.Name, Weight: Math.Exp(s.Score - best))).ToArray();
        var sum = weights.Sum(w => w.Weight);
        return
        [
            .. weights
                .OrderByDescending(w => w.Weight)
                .Take(Most)
                .Where(w => w.Weight > 0.02 * sum)
                .Select(w => new Suggestion(w.Name, w.Weight / sum)),
        ];
    }

    /// <summary>Logarithm of how likely, per clue; null without any clue.</summary>
    private static double? Score(
        MarkerTake take,
        MarkerSet set,
        string? prefix,
        Performer? body,
        MarkerDefinition marker,
        int column,
        Vector3 place,
        int frame
    )
    {
        double sum = 0;
        var clues = 0;
        void Clue(double off, double spread)
        {
            sum -= Math.Min(off * off / (2 * spread * spread), 12);
            clues++;
        }

        foreach (var other in set.Markers)
        {
            var k = take.IndexOf(MarkerNames.Join(prefix, other.Name));
            if (other.Name == marker.Name || k < 0 || !MarkerTake.Seen(take[frame, k]))
            {
                continue;
            }

            var distance = (take[frame, k] - place).Length();
            if (other.Segment == marker.Segment && Offset(body, marker.Name) is { } a && Offset(body, other.Name) is { } b)
            {
                Clue(distance - (a - b).Length(), Skin);
            }
            else if (set.Links.Any(l => (l.A == marker.Name && l.B == other.Name) || (l.B == marker.Name && l.A == other.Name)))
            {
                // What the take itself has shown is nearer than the body at rest.
                if (column >= 0 && Usual(take, column, k) is { } usual)
                {
                    Clue(distance - usual, other.Segment == marker.Segment ? Skin : OverJoint);
                }
                else if (AtRest(body, marker.Name) is { } here && AtRest(body, other.Name) is { } there)
                {
                    Clue(distance - (here - there).Length(), Bent);
                }
            }
        }

        if (column >= 0 && LastSeen(take, column, frame) is { } last)
        {
            Clue((take[last, column] - place).Length(), 0.01 + (LostPerFrame * Math.Abs(frame - last) * 120 / take.FrameRate));
        }

        return clues == 0 ? null : sum / Math.Sqrt(clues);
    }

    private static Vector3? Offset(Performer? body, string marker) => body?.Markers.FirstOrDefault(m => m.Name == marker)?.Offset;

    private static Vector3? AtRest(Performer? body, string marker) =>
        body?.Markers.FirstOrDefault(m => m.Name == marker) is { } worn ? body.Skeleton.RestPositions[worn.Joint] + worn.Offset : null;

    private static double? Usual(MarkerTake take, int a, int b)
    {
        var lengths = TakeLinks.Lengths(take, a, b, 100);
        return lengths.Count < 5 ? null : lengths[lengths.Count / 2];
    }

    /// <summary>The nearest frame within two seconds in which a column is seen.</summary>
    private static int? LastSeen(MarkerTake take, int column, int frame)
    {
        for (var d = 1; d < 2 * take.FrameRate; d++)
        {
            foreach (var f in new[] { frame - d, frame + d })
            {
                if (f >= 0 && f < take.FrameCount && MarkerTake.Seen(take[f, column]))
                {
                    return f;
                }
            }
        }

        return null;
    }
}
