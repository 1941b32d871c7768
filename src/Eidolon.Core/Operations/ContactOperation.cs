using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;

namespace Eidolon.Core.Operations;

/// <summary>A person's decision about when a part of the body is planted.</summary>
public static class ContactOperation
{
    /// <summary>Parameters: point (heel, toe, knee, hand, seat), side (L, R, C), edits [{start, end, planted}].</summary>
    public static Operation Contacts { get; } = new("contacts", 1, "Clean", "Contact", (data, p, _) =>
        {
            var point = Enum.TryParse<ContactPoint>(p.Needed("point"), ignoreCase: true, out var c)
                ? c
                : throw new ArgumentException(
                    $"the contact point must be one of {string.Join(", ", Enum.GetNames<ContactPoint>()).ToLowerInvariant()}"
                );
            var side = p.Needed("side") is "L" or "R" or "C"
                ? p.Needed("side")[0]
                : throw new ArgumentException("the side must be L, R or C");
            var edits = (p["edits"] as JsonArray ?? [])
                .Select(e => e as JsonObject ?? throw new ArgumentException("each edit must be an object"))
                .Select(e => new ContactEdit(point, side, e.Whole("start", 0), e.Whole("end", 0), e["planted"]?.GetValue<bool>() ?? true))
                .ToArray();
            if (edits.Length == 0 || edits.Any(e => e.Start < 0 || e.End < e.Start))
            {
                throw new ArgumentException("a contact needs a range of frames that begins before it ends");
            }

            var said = string.Join(", ", edits.Select(e => $"{(e.Planted ? "planted" : "free")} {e.Start} to {e.End}"));
            return new OperationResult(
                data with
                {
                    Contacts = [.. data.Contacts, .. edits],
                },
                $"{point.ToString().ToLowerInvariant()} {side}: {said}",
                []
            );
        }) { Light = true };
}
