using System.Globalization;
using System.Numerics;
using System.Text;
using Eidolon.Core.Characters;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>A row of small figures that says what a take is: six moments, seen from the performer's front left.</summary>
public static class Postures
{
    private const int Moments = 6;

    private const float PixelsPerMetre = 15.5f;

    /// <summary>The highest figure is drawn so high, pixels.</summary>
    private const float Tall = 29.5f;

    /// <summary>A performer's head is a circle so far above its joint, and so large, pixels.</summary>
    private const float HeadAbove = 1.5f,
        HeadRadius = 2.1f;

    private static readonly (BodyRole From, BodyRole To, string Class)[] Bones =
    [
        (BodyRole.ThighR, BodyRole.ShinR, "pr"),
        (BodyRole.ShinR, BodyRole.FootR, "pr"),
        (BodyRole.FootR, BodyRole.ToesR, "pr"),
        (BodyRole.UpperArmR, BodyRole.ForearmR, "pr"),
        (BodyRole.ForearmR, BodyRole.HandR, "pr"),
        (BodyRole.Pelvis, BodyRole.Chest, "pc pt"),
        (BodyRole.Chest, BodyRole.Neck, "pc pt"),
        (BodyRole.UpperArmL, BodyRole.UpperArmR, "pc"),
        (BodyRole.ThighL, BodyRole.ThighR, "pc"),
        (BodyRole.ThighL, BodyRole.ShinL, "pl"),
        (BodyRole.ShinL, BodyRole.FootL, "pl"),
        (BodyRole.FootL, BodyRole.ToesL, "pl"),
        (BodyRole.UpperArmL, BodyRole.ForearmL, "pl"),
        (BodyRole.ForearmL, BodyRole.HandL, "pl"),
    ];

    /// <summary>Who is drawn.</summary>
    /// <param name="Sketch">A character's own strokes; null for a performer, who is drawn in the colours of the sides.</param>
    public sealed record Actor(Motion Motion, FigureSketch? Sketch = null);

    /// <summary>
    /// All performers of a take, or characters of a scene, at the same moments, with their props and what stands around them; one alone is seen from the
    /// front left of the way they face, several from beside the line between them.
    /// </summary>
    public static string Svg(
        IReadOnlyList<Actor> actors,
        IReadOnlyList<PostureThings.Prop>? props = null,
        IReadOnlyList<SetPiece>? pieces = null
    )
    {
        var all = actors
            .Where(m => Bones.All(b => m.Motion.Skeleton.IndexOf(b.From) >= 0 && m.Motion.Skeleton.IndexOf(b.To) >= 0))
            .ToArray();
        if (all.Length == 0)
        {
            return string.Empty;
        }

        var text = new StringBuilder(
            "<svg class=\"e-postures\" viewBox=\"0 0 156 32\" aria-hidden=\"true\"><path class=\"pf\" d=\"M0 30.5H156\"/>"
        );
        var moments = all.Length == 1 ? Moments : Moments / 2;
        var width = 156f / moments;
        var shown = Enumerable
            .Range(0, moments)
            .Select(k => (k + 0.5) / moments)
            .Select(at => (At: at, Figures: all.Select(m => Places(m, (int)(at * m.Motion.FrameCount))).ToArray()))
            .ToArray();
        // Whoever stands on steps or leaps is still seen whole.
        var scale = Math.Min(PixelsPerMetre, shown.SelectMany(s => s.Figures).Min(f => f.Scale));
        foreach (var (at, figures) in shown)
        {
            var middle = figures.Aggregate(Vector3.Zero, (sum, f) => sum + f.Pelvis) / figures.Length;
            var yaw = figures.Length == 1 ? 0.9f - figures[0].Heading : Beside(figures[0].Pelvis, figures[^1].Pelvis);
            var view = new PostureView(middle, yaw, scale, width / 2);
            var left = (float)((at * 156) - (width / 2));
            // Each moment has its own room: what stands around reaches no farther.
            text.Append(
                CultureInfo.InvariantCulture,
                $"<svg x=\"{left:0.#}\" width=\"{width:0.#}\" height=\"32\" viewBox=\"0 0 {width:0.#} 32\">"
            );
            PostureThings.Around(text, view, pieces ?? [], figures[0].Hands);
            foreach (var figure in figures)
            {
                Draw(text, figure, view, (width / 2) - 9);
            }

            PostureThings.Held(text, view, props ?? [], at);
            text.Append("</svg>");
        }

        return text.Append("</svg>").ToString();
    }

    private sealed record Figure(Skeleton Skeleton, Vector3[] Places, Vector3 Pelvis, float Heading, FigureSketch? Sketch)
    {
        public Vector3 At(BodyRole role) => Places[Skeleton.IndexOf(role)];

        /// <summary>Between the hands.</summary>
        public Vector3 Hands => (At(BodyRole.HandL) + At(BodyRole.HandR)) / 2;

        /// <summary>It fits into the picture at so many pixels a metre: with what is worn on the head, or under the circle that is a performer's.</summary>
        public float Scale =>
            Sketch is { } sketch
                ? Tall / Math.Max(Places.Max(p => p.Y), At(BodyRole.Head).Y + sketch.Crown)
                : Math.Min(Tall / Places.Max(p => p.Y), (Tall - HeadAbove - HeadRadius) / At(BodyRole.Head).Y);
    }

    private static Figure Places(Actor actor, int frame)
    {
        var (motion, s) = (actor.Motion, actor.Motion.Skeleton);
        var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        ForwardKinematics.World(motion, Math.Clamp(frame, 0, motion.FrameCount - 1), turns, places);
        var ahead = Vector3.Transform(Vector3.UnitZ, turns[0]);
        return new Figure(s, places, places[s.IndexOf(BodyRole.Pelvis)], MathF.Atan2(ahead.X, ahead.Z), actor.Sketch);
    }

    /// <summary>The turn that lays the line between two people across the picture.</summary>
    private static float Beside(Vector3 a, Vector3 b) => MathF.Atan2(b.Z - a.Z, b.X - a.X);

    /// <param name="room">How far to either side of the centre a figure may stand, pixels: who is farther away is drawn nearer, but whole.</param>
    private static void Draw(StringBuilder text, Figure figure, PostureView view, float room)
    {
        var stands = view.Across(figure.Pelvis);
        var nearer = Math.Clamp(stands - view.Centre, -room, room) + view.Centre - stands;
        (float X, float Y) At(BodyRole r)
        {
            var (x, y) = view.Of(figure.At(r));
            return (x + nearer, y);
        }

        if (figure.Sketch is { } sketch)
        {
            Dressed(text, sketch, At, view.Scale);
            return;
        }

        foreach (var b in Bones)
        {
            var (a, c) = (At(b.From), At(b.To));
            text.Append(CultureInfo.InvariantCulture, $"<path class=\"{b.Class}\" d=\"M{a.X:0.0} {a.Y:0.0}L{c.X:0.0} {c.Y:0.0}\"/>");
        }

        var head = At(BodyRole.Head);
        text.Append(
            CultureInfo.InvariantCulture,
            $"<circle class=\"ph\" cx=\"{head.X:0.0}\" cy=\"{head.Y - HeadAbove:0.0}\" r=\"{HeadRadius}\"/>"
        );
    }

    /// <summary>Thickness and colour of each bone by the character's own skin; the head with what is worn on it.</summary>
    private static void Dressed(StringBuilder text, FigureSketch sketch, Func<BodyRole, (float X, float Y)> at, float scale)
    {
        void Line((float X, float Y) a, (float X, float Y) b, SketchStroke s) =>
            text.Append(
                CultureInfo.InvariantCulture,
                $"<line x1=\"{a.X:0.0}\" y1=\"{a.Y:0.0}\" x2=\"{b.X:0.0}\" y2=\"{b.Y:0.0}\" stroke=\"{s.Colour}\" "
                    + $"stroke-width=\"{MathF.Max(1.2f, s.Radius * 1.9f * scale):0.0}\" stroke-linecap=\"round\"/>"
            );
        foreach (var b in Bones)
        {
            if (sketch.Strokes.TryGetValue(b.From, out var stroke))
            {
                Line(at(b.From), at(b.To), stroke);
            }
        }

        var (head, neck) = (at(BodyRole.Head), at(BodyRole.Neck));
        // Which way the head points in the picture, as long as it is high.
        var (dx, dy) = (head.X - neck.X, head.Y - neck.Y);
        var by = sketch.Crown * scale / MathF.Max(.5f, MathF.Sqrt((dx * dx) + (dy * dy)));
        (float X, float Y) Up(float t) => (head.X + (dx * by * t), head.Y + (dy * by * t));
        Line(Up(.15f), Up(.4f), sketch.Face with { Radius = sketch.Face.Radius * .9f });
        Line(Up(.62f), Up(.9f), sketch.Hat with { Radius = sketch.Hat.Radius * .8f });
    }
}
