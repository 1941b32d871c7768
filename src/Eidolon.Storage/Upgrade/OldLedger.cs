using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Storage.Upgrade;

/// <summary>
/// The straight list of entries of the version before, sorted to nodes. One performer was solved and put on one character then: solve and
/// contacts are the first performer's, retargets go to the cast of their character, clips and layers to the scene.
/// </summary>
internal static class OldLedger
{
    /// <summary>An entry as it stood in the list.</summary>
    public sealed record Old(string Operation, int Version, JsonObject Parameters, bool On, string Summary, DateTime CreatedUtc);

    /// <summary>Where an entry goes.</summary>
    /// <param name="Character">Name of the character of a cast, or of the track that clips and layers work on; null elsewhere.</param>
    public sealed record Sorted(NodeKind Kind, string? Character, Old Entry);

    /// <param name="motionOnly">The take holds a motion that was brought in, and no markers.</param>
    public static List<Sorted> Sort(IReadOnlyList<Old> entries, bool motionOnly)
    {
        var result = new List<Sorted>();
        string? character = null;
        var trimmed = 0;
        foreach (var e in entries)
        {
            switch (e.Operation)
            {
                case "solve":
                    result.RemoveAll(s => s.Kind == NodeKind.Solve && s.Entry.Operation == "solve");
                    result.Add(new(NodeKind.Solve, null, e));
                    break;
                case "contacts":
                    var parameters = e.Parameters.DeepClone().AsObject();
                    parameters["first"] = trimmed;
                    result.Add(new(NodeKind.Solve, null, e with { Parameters = parameters }));
                    break;
                case "retarget":
                    var setUp = e.Parameters.DeepClone().AsObject();
                    var name = (string?)setUp["character"] ?? string.Empty;
                    setUp.Remove("character");
                    character = e.On ? name : character;
                    result.RemoveAll(s => s.Kind == NodeKind.Cast && s.Character == name);
                    result.Add(new(NodeKind.Cast, name, e with { Parameters = setUp, Version = RetargetOperation.Retarget.Version }));
                    break;
                case "assemble":
                    result.Add(new(NodeKind.Track, character, e));
                    break;
                case "layer":
                    result.Add(new(NodeKind.Layers, character, e));
                    break;
                case "trim":
                    trimmed += e.On ? (int?)(double?)e.Parameters["from"] ?? 0 : 0;
                    result.Add(
                        motionOnly
                            ? new(NodeKind.Solve, null, e with { Operation = TrimOperations.TrimMotion.Name })
                            : new(NodeKind.Markers, null, e)
                    );
                    break;
                case "label" when e.Version == 3:
                    // Version 4 gives the same names; it only counts them without the props' markers.
                    result.Add(new(NodeKind.Markers, null, e with { Version = LabelOperations.Label.Version }));
                    break;
                default:
                    result.Add(new(NodeKind.Markers, null, e));
                    break;
            }
        }

        // A solve is the set-up of its node: it stands before the contacts.
        return [.. result.OrderBy(s => s.Kind).ThenBy(s => s.Kind == NodeKind.Solve && s.Entry.Operation != "solve" ? 1 : 0)];
    }
}
