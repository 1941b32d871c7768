using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Lanes;

namespace Eidolon.Studio.Services;

/// <summary>Two solves of one performance laid over each other: how far apart, where, and which is better by the measures.</summary>
public sealed class SolvePair
{
    /// <summary>Two solves of one performance are not so far apart on the whole, millimetres.</summary>
    private const double Strangers = 200;

    private readonly float[] _worst;

    public SolvePair(SolveStates.Found a, SolveStates.Found b, Laying laying, StateNotes notes)
    {
        (A, B, Laying) = (a, b, laying);
        Difference = Comparison.Of(a.Motion, b.Motion, laying);
        Measures = Rows(notes.Quality(a.Content, a.Motion, a.Role.Contacts), notes.Quality(b.Content, b.Motion, b.Role.Contacts));
        var n = Difference.Joints.Count;
        _worst = [.. Enumerable.Range(0, Difference.Frames).Select(f => Difference.Apart.AsSpan(f * n, n).ToArray().Max())];
    }

    /// <summary>A measure of both; less is better.</summary>
    /// <param name="Better">A, B or empty where they are alike.</param>
    public sealed record Row(string Name, string Unit, double A, double B, string Better)
    {
        /// <summary>A value as it is read: counts whole, measures with a tenth.</summary>
        public string Text(double value) =>
            value.ToString(Unit is "" or "frames" ? "0" : "0.0", System.Globalization.CultureInfo.InvariantCulture);
    }

    /// <summary>Bytes of the comparison and of the two motions it keeps.</summary>
    public long Bytes => (4L * (Difference.Apart.Length + _worst.Length)) + (28L * (A.Motion.Rotations.Length + B.Motion.Rotations.Length));

    public SolveStates.Found A { get; }

    public SolveStates.Found B { get; }

    public Laying Laying { get; }

    public Comparison Difference { get; }

    public IReadOnlyList<Row> Measures { get; }

    /// <summary>A joint of the body: thirty of fingers would hide what the hand they hang on tells.</summary>
    public static bool OfBody(JointDifference joint) => !(Enum.TryParse<BodyRole>(joint.Name, out var role) && BodyRoles.IsFinger(role));

    /// <summary>What comes of it, in words.</summary>
    public string Verdict
    {
        get
        {
            if (Difference.MeanMillimetres > Strangers)
            {
                return "They hardly are one performance: lay them over each other, or choose another.";
            }

            if (Difference.Alike)
            {
                return "The two are alike.";
            }

            var (a, b) = (Measures.Count(m => m.Better == "A"), Measures.Count(m => m.Better == "B"));
            var (first, second) = a > b ? ("A", "B") : ("B", "A");
            return a == b
                ? "Neither is better."
                : $"{first} is better in {Math.Max(a, b)}, {second} in {Math.Min(a, b)}, alike in {Measures.Count - a - b}.";
        }
    }

    /// <summary>Frame of the first one at which they are farthest apart.</summary>
    public int WorstFrame => Difference.Start + Array.IndexOf(_worst, _worst.Max());

    /// <summary>Frame of the first one at which a joint is farthest apart.</summary>
    public int WorstFrameOf(int joint)
    {
        var n = Difference.Joints.Count;
        return Difference.Start + Enumerable.Range(0, Difference.Frames).MaxBy(f => Difference.Apart[(f * n) + joint]);
    }

    /// <summary>The second motion on the first one's frames, turned and moved as it is laid.</summary>
    public Motion Laid()
    {
        var b = MotionEdits.Resample(B.Motion, A.Motion.FrameRate);
        var result = new Motion(b.Skeleton, A.Motion.FrameRate, A.Motion.FrameCount);
        var pelvis = Laying == Laying.Pelvis ? Pelvis(A.Motion) : null;
        var own = Laying == Laying.Pelvis ? Pelvis(b) : null;
        for (var f = 0; f < result.FrameCount; f++)
        {
            var g = Math.Clamp(f - Difference.OffsetFrames, 0, b.FrameCount - 1);
            b.RotationsAt(g).CopyTo(result.RotationsAt(f));
            b.TranslationsAt(g).CopyTo(result.TranslationsAt(f));
            // The first joint carries the whole body.
            result.RotationsAt(f)[0] = Difference.Turn * b.RotationsAt(g)[0];
            result.TranslationsAt(f)[0] = Vector3.Transform(b.TranslationsAt(g)[0], Difference.Turn) + Difference.Move;
            if (pelvis is not null)
            {
                result.TranslationsAt(f)[0] += pelvis[f] - own![g];
            }
        }

        return result;
    }

    /// <summary>How far the worst joint, and each part of the body, are apart over the first one's frames.</summary>
    public JsonArray Lanes()
    {
        var lanes = new JsonArray { (JsonNode)Lane("Apart, worst joint", 'N', "area", _worst) };
        var n = Difference.Joints.Count;
        var parts = Difference
            .Joints.Select((j, i) => (Part: BodyRoles.Part(Enum.Parse<BodyRole>(j.Name)), i))
            .GroupBy(x => x.Part, x => x.i);
        foreach (var part in parts.OrderBy(p => LaneParts.Order(p.Key)))
        {
            int[] own = [.. part];
            float[] values = [.. Enumerable.Range(0, Difference.Frames).Select(f => own.Max(j => Difference.Apart[(f * n) + j]))];
            lanes.Add((JsonNode)Lane(LaneParts.PartName(part.Key), LaneParts.SideOfPart(part.Key), "area", values));
        }

        return lanes;
    }

    private JsonObject Lane(string name, char side, string kind, float[] values)
    {
        const double full = 60;
        var all = new double?[A.Motion.FrameCount];
        for (var f = 0; f < values.Length; f++)
        {
            all[f + Difference.Start] = values[f];
        }

        return LaneParts.Lane(
            name,
            side,
            kind,
            $"at worst {values.Max():0} mm",
            ("values", LaneParts.Compress(all)),
            ("scale", Math.Max(full, values.Max()))
        );
    }

    private static Vector3[] Pelvis(Motion motion)
    {
        var (s, world) = (motion.Skeleton, ForwardKinematics.WorldPositions(motion));
        var pelvis = Math.Max(0, s.IndexOf(BodyRole.Pelvis));
        return [.. Enumerable.Range(0, motion.FrameCount).Select(f => world[(f * s.Count) + pelvis])];
    }

    private static List<Row> Rows(MotionQuality a, MotionQuality b)
    {
        var rows = new List<Row>();
        void Add(string name, string unit, double x, double y, double alike)
        {
            if (double.IsFinite(x) && double.IsFinite(y))
            {
                // Alike within a tenth, or within what nobody sees.
                var same = Math.Abs(x - y) <= Math.Max(alike, 0.1 * Math.Max(x, y));
                rows.Add(
                    new Row(
                        name,
                        unit,
                        x,
                        y,
                        same ? string.Empty
                            : x < y ? "A"
                            : "B"
                    )
                );
            }
        }

        Add("Foot slide", "mm", a.WorstSlide?.Millimetres ?? 0, b.WorstSlide?.Millimetres ?? 0, 0.5);
        Add("Float", "mm", a.Float, b.Float, 1);
        Add("Below floor", "mm", a.Penetration, b.Penetration, 1);
        Add("Jitter", "m/s²", a.Jitter, b.Jitter, 0.05);
        Add("Clipping", "frames", a.Clipping.Count, b.Clipping.Count, 0);
        Add("Findings", "", a.Findings.Count, b.Findings.Count, 0);
        return rows;
    }
}
