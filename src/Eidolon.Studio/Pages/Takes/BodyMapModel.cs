using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>The mirror figure: which parts of the body need a look. Left is drawn on the left.</summary>
public sealed record BodyMapModel(string Label, IReadOnlyDictionary<string, (int Frames, bool Must)> Parts, int Height = 190)
{
    private static readonly (string Part, string Word, int X, int Y, bool End)[] Places =
    [
        ("Arm L", "arm", 50, 70, true),
        ("Arm R", "arm", 146, 70, false),
        ("Hand L", "hand", 50, 118, true),
        ("Hand R", "hand", 146, 118, false),
        ("Leg L", "leg", 76, 172, true),
        ("Leg R", "leg", 122, 172, false),
        ("Head and trunk", "trunk", 142, 38, false),
    ];

    public string Class(string part) =>
        Parts.TryGetValue(part, out var p) && p.Frames > 0
            ? p.Must
                ? "hot"
                : "warm"
            : string.Empty;

    public IEnumerable<(string Word, string Text, int X, int Y, bool End)> Notes =>
        Places
            .Where(p => Parts.TryGetValue(p.Part, out var v) && v.Frames > 0)
            .Select(p => (p.Word, Parts[p.Part].Frames.ToString(), p.X, p.Y, p.End));

    /// <summary>Open gap frames by part of the body.</summary>
    public static BodyMapModel OfGaps(MarkerTake take, IReadOnlyList<Gap>[] table, MarkerSet set)
    {
        var parts = set
            .Markers.GroupBy(m => BodyRoles.Part(m.Segment))
            .ToDictionary(
                g => g.Key,
                g =>
                {
                    var own = g.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
                    var gaps = Enumerable
                        .Range(0, take.MarkerCount)
                        .Where(i => own.Contains(MarkerNames.Split(take.Names[i]).Marker))
                        .SelectMany(i => table[i])
                        .Where(x => x.Length < take.FrameCount)
                        .ToArray();
                    return (gaps.Sum(x => x.Length), gaps.Any(x => x.Length > take.FrameRate / 2));
                }
            );
        return new BodyMapModel("Open gap frames by part of the body", parts);
    }
}
