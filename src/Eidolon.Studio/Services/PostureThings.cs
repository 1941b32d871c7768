using System.Globalization;
using System.Numerics;
using System.Text;
using Eidolon.Core.Markers;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>Props and set pieces as a row of postures has them: outlines as high as a line of text, enough to tell what is carried, hauled or climbed.</summary>
public static class PostureThings
{
    /// <summary>A set piece is drawn as long as its middle is no farther away than this, metres.</summary>
    private const float Near = 6;

    /// <summary>Height at which a rope leaves the bollard, metres.</summary>
    private const float RopeFrom = 0.36f;

    /// <summary>What stands around, as boxes in the piece's own frame (+Z ahead, metres): middle and size.</summary>
    private static readonly Dictionary<string, (Vector3 Middle, Vector3 Size)[]> Pieces = new(StringComparer.Ordinal)
    {
        ["steps"] =
        [
            .. Enumerable
                .Range(0, 5)
                .Select(k => (Height: 0.17f * (Math.Min(k, 2) + 1), K: k))
                .Select(s => (new Vector3(0, s.Height / 2, (0.34f * s.K) + 0.17f), new Vector3(1.3f, s.Height, 0.34f))),
        ],
        ["gangplank"] = [(new(0, 0, -0.95f), new(1.1f, 0.04f, 0.6f)), (new(0, 0, 0.72f), new(1.1f, 0.04f, 0.6f))],
        ["bollard"] = [(new(0, 0.25f, 0), new(0.34f, 0.5f, 0.34f)), (new(0, 0.55f, 0), new(0.44f, 0.1f, 0.44f))],
        ["net"] = [(new(0, 1, 0), new(4.8f, 0.03f, 4.8f))],
        ["mooring-line"] = [(new(0, 0.32f, 0), new(2.4f, 0.05f, 0.05f))],
        ["lamp-post"] = [(new(0, 1.2f, 0), new(0.1f, 2.4f, 0.1f))],
    };

    /// <summary>A prop and where it goes.</summary>
    public sealed record Prop(RigidBody Body, PropPlaces Places);

    /// <summary>What stands around, behind the figures; a rope goes from its bollard to the hands.</summary>
    public static void Around(StringBuilder text, PostureView view, IReadOnlyList<SetPiece> pieces, Vector3 hands)
    {
        foreach (var piece in pieces)
        {
            var at = new Vector3((float)piece.X, 0, (float)piece.Z);
            if (!Pieces.TryGetValue(piece.Kind, out var boxes) || (at - (view.Middle with { Y = 0 })).Length() > Near)
            {
                continue;
            }

            var turn = Quaternion.CreateFromAxisAngle(Vector3.UnitY, (float)(piece.Heading * Math.PI / 180));
            // Together they are one shape, however they lie over each other.
            text.Append("<g class=\"ps\">");
            foreach (var (middle, size) in boxes)
            {
                Outline(text, null, [.. Corners(size).Select(c => view.Of(at + Vector3.Transform(middle + c, turn)))]);
            }

            text.Append("</g>");

            if (piece.Kind == "bollard")
            {
                var ((x, y), (u, v)) = (view.Of(at with { Y = RopeFrom }), view.Of(hands));
                text.Append(CultureInfo.InvariantCulture, $"<path class=\"po\" d=\"M{x:0.0} {y:0.0}L{u:0.0} {v:0.0}\"/>");
            }
        }
    }

    /// <summary>Props before the figures, as far as they are seen.</summary>
    /// <param name="moment">Share of the take, 0 to 1.</param>
    public static void Held(StringBuilder text, PostureView view, IReadOnlyList<Prop> props, double moment)
    {
        foreach (var (body, places) in props)
        {
            var f = Math.Clamp((int)(moment * places.FrameCount), 0, places.FrameCount - 1);
            if (places.FrameCount > 0 && MarkerTake.Seen(places.Positions[f]))
            {
                Outline(text, "pp", [.. body.Markers.Select(m => view.Of(places.Positions[f] + Vector3.Transform(m, places.Turns[f])))]);
            }
        }
    }

    private static IEnumerable<Vector3> Corners(Vector3 size) =>
        from x in new[] { -0.5f, 0.5f }
        from y in new[] { -0.5f, 0.5f }
        from z in new[] { -0.5f, 0.5f }
        select size * new Vector3(x, y, z);

    private static void Outline(StringBuilder text, string? style, (float X, float Y)[] points)
    {
        text.Append("<path ").Append(style is null ? string.Empty : $"class=\"{style}\" ").Append("d=\"M");
        text.AppendJoin('L', Hull(points).Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.X:0.0} {p.Y:0.0}")));
        text.Append("Z\"/>");
    }

    /// <summary>The outline of points in a plane, in order (Andrew, "Another efficient algorithm for convex hulls in two dimensions", 1979).</summary>
    private static List<(float X, float Y)> Hull((float X, float Y)[] points)
    {
        var hull = new List<(float X, float Y)>();
        var order = points.OrderBy(p => p.X).ThenBy(p => p.Y).ToArray();
        foreach (var half in new[] { order, [.. order.Reverse()] })
        {
            var first = hull.Count;
            foreach (var p in half)
            {
                while (hull.Count - first >= 2 && Turn(hull[^2], hull[^1], p) <= 0)
                {
                    hull.RemoveAt(hull.Count - 1);
                }

                hull.Add(p);
            }

            hull.RemoveAt(hull.Count - 1);
        }

        return hull;
    }

    private static float Turn((float X, float Y) a, (float X, float Y) b, (float X, float Y) c) =>
        ((b.X - a.X) * (c.Y - a.Y)) - ((b.Y - a.Y) * (c.X - a.X));
}
