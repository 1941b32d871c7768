using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;

namespace Eidolon.Core.Operations;

/// <summary>A person's decision about when a part of the body is planted.</summary>
public static class ContactOperation
{
    private const string WholeFoot = "foot";

    /// <summary>
    /// On a suit's recording or on films it goes before the solve, whose way through the room is made of contacts. Parameters: point (heel, toe, knee,
    /// hand, seat; foot is heel and toe together: a foot that is locked neither slides nor turns), side (L, R, C), edits [{start, end, planted}], first
    /// (the frame of the recording that frame 0 was when it was decided, so that a later trim does not move the decision).
    /// </summary>
    public static Operation Contacts { get; } =
        new("contacts", 1, NodeKind.Solve, "Clean", "Contact", (input, p, _) =>
        {
            var data = input.Own ?? throw new RefusedException("solve the take first: contacts are of its motion");
            var (points, side) = (PointsOf(p), SideOf(p));
            var begins = (data as MotionValue)?.Motion.FirstFrame ?? 0;
            var shift = p.Whole("first", begins) - begins;
            var asked = (p["edits"] as JsonArray ?? [])
                .Select(e => e as JsonObject ?? throw new RefusedException("each edit must be an object"))
                .SelectMany(e =>
                    points.Select(point => new ContactEdit(
                        point,
                        side,
                        e.Whole("start", 0),
                        e.Whole("end", 0),
                        e["planted"]?.GetValue<bool>() ?? true
                    ))
                )
                .ToArray();
            if (asked.Length == 0 || asked.Any(e => e.Start < 0 || e.End < e.Start))
            {
                throw new RefusedException("a contact needs a range of frames that begins before it ends");
            }

            var edits = asked
                .Select(e => e with { Start = Math.Max(0, e.Start + shift), End = e.End + shift })
                .Where(e => e.End >= e.Start && e.Start < data.FrameCount);
            var planted = points.Length > 1 ? "locked" : "planted";
            var said = string.Join(
                ", ",
                asked.Where(e => e.Point == points[0]).Select(e => $"{(e.Planted ? planted : "free")} {e.Start} to {e.End}")
            );
            return new OperationResult(
                data switch
                {
                    MotionValue m => m with { Contacts = [.. m.Contacts, .. edits] },
                    SuitValue s => s with { Contacts = [.. s.Contacts, .. edits] },
                    FilmValue f => f with { Contacts = [.. f.Contacts, .. edits] },
                    RecordedValue r => r with { Contacts = [.. r.Contacts, .. edits] },
                    _ => throw new RefusedException("only what a body does has contacts"),
                },
                $"{p.Needed("point").ToLowerInvariant()} {side}: {said}",
                []
            );
        })
        {
            Quick = true,
            OrderGroup = "contacts",
            AheadOf = [SuitOperation.Solve.Name, FilmOperation.Solve.Name],
            FitsRecipe = _ => false,
        };

    private static ContactPoint[] PointsOf(JsonObject p) =>
        p.Needed("point").Equals(WholeFoot, StringComparison.OrdinalIgnoreCase) ? [ContactPoint.Heel, ContactPoint.Toe]
        : Enum.TryParse<ContactPoint>(p.Needed("point"), ignoreCase: true, out var c) ? [c]
        : throw new RefusedException(
            $"the contact point must be one of {string.Join(", ", Enum.GetNames<ContactPoint>()).ToLowerInvariant()}, {WholeFoot}"
        );

    private static char SideOf(JsonObject p) =>
        p.Needed("side") is "L" or "R" or "C" ? p.Needed("side")[0] : throw new RefusedException("the side must be L, R or C");
}
