using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>Orders in which names come by themselves when a take is named by hand.</summary>
public static class NameOrder
{
    /// <summary>The pelvis first, then knees and ankles: with them the rest of the body is found most easily.</summary>
    private static readonly string[] PelvisFirst =
    [
        "Pelvis",
        "Shin",
        "Foot",
        "Thigh",
        "Toes",
        "SpineLower",
        "SpineMid",
        "SpineUpper",
        "Chest",
        "Head",
        "Neck",
        "Clavicle",
        "UpperArm",
        "Forearm",
        "Hand",
    ];

    private static readonly string[] HeadFirst =
    [
        "Head",
        "Neck",
        "Chest",
        "SpineUpper",
        "SpineMid",
        "SpineLower",
        "Clavicle",
        "UpperArm",
        "Forearm",
        "Hand",
        "Pelvis",
        "Thigh",
        "Shin",
        "Foot",
        "Toes",
    ];

    /// <summary>Names as the browser knows them, and in words.</summary>
    public static IReadOnlyList<(string Key, string Words)> All { get; } =
    [("pelvis", "pelvis, knees, ankles first"), ("head", "head to toes"), ("set", "as in the marker set")];

    /// <summary>The place of each marker of a set in an order.</summary>
    public static IReadOnlyDictionary<string, int> Ranks(MarkerSet set, string key)
    {
        var order =
            key == "pelvis" ? PelvisFirst
            : key == "head" ? HeadFirst
            : [];
        int Of(MarkerDefinition m) => Array.IndexOf(order, BodyRoles.Stem(m.Segment)) is >= 0 and var i ? i : order.Length;
        return set
            .Markers.Select((m, i) => (m.Name, Key: (Of(m), i)))
            .OrderBy(x => x.Key)
            .Select((x, i) => (x.Name, i))
            .ToDictionary(x => x.Name, x => x.i, StringComparer.Ordinal);
    }
}
