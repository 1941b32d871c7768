using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>A track as far as it has been joined: frames that are done, and the last clip, which the next may still overlap.</summary>
/// <param name="quick">Feet go as they are blended, and nothing is measured: while a clip is dragged.</param>
internal sealed class ClipTrack(bool quick = false)
{
    /// <summary>A clip that repeats overlaps itself for so long where its end is not its beginning, seconds; and for no more than this share of it.</summary>
    private const double RepeatSeconds = 0.3,
        RepeatShare = 1 / 3.0;

    /// <summary>Poses nearer than this are one: the last of a cycle and its first, metres.</summary>
    private const double OnePose = 0.004;

    /// <summary>The best moment is looked for in the last part of the earlier clip and the first of the later one, as a share of each.</summary>
    private const double Search = 0.6;

    /// <summary>A proposed overlap is long enough to keep its acceleration below the clips' own by this.</summary>
    private const double Quiet = 0.8;

    /// <summary>A planted foot that moves no more than this in a frame is still enough, millimetres; an overlap is written again so often at most.</summary>
    private const double Still = 1;

    private const int Again = 6;

    /// <summary>A foot comes to rest in so long, seconds; at once where it slides all the same.</summary>
    private const double RestSeconds = 0.03;

    private static readonly ClipPlay _repeated = new(null, Meet.Best);

    private readonly List<OverlapReport> _reports = [];
    private readonly List<ContactEdit> _contacts = [];
    private readonly List<Motion> _done = [];
    private readonly List<(int Start, int End)> _cuts = [];
    private Motion? _first;
    private Motion _motion = null!;
    private PlantedFeet? _feet;
    private float _peak;
    private int _at;
    private int _index;

    /// <summary>How an overlap went.</summary>
    /// <param name="Steps">Sides that took a step.</param>
    /// <param name="Slide">How far a planted foot moves in a frame, millimetres; not a number without feet.</param>
    /// <param name="Peak">The greatest acceleration, metres a frame squared.</param>
    private sealed record Outcome(string Steps, double Slide, float Peak)
    {
        /// <summary>Above 1 it slides or jolts more than it should.</summary>
        public double Badness(float own) =>
            Math.Max(double.IsNaN(Slide) ? 0 : Slide / OverlapReport.MostSlide, own > 0 ? Peak / (OverlapReport.JoltRatio * own) : 0);
    }

    /// <summary>Frames so far.</summary>
    public int FrameCount => _first is null ? 0 : _at + _motion.FrameCount;

    /// <summary>Another one that begins where this one is; neither changes the other.</summary>
    public ClipTrack Copy()
    {
        var copy = new ClipTrack(quick)
        {
            _first = _first,
            _motion = _motion,
            _feet = _feet,
            _peak = _peak,
            _at = _at,
            _index = _index,
        };
        copy._reports.AddRange(_reports);
        copy._contacts.AddRange(_contacts);
        copy._done.AddRange(_done);
        copy._cuts.AddRange(_cuts);
        return copy;
    }

    /// <summary>Lays the next clip, as often as it is played.</summary>
    /// <exception cref="RefusedException">It is on another skeleton or at another rate, or its overlap is longer than a clip; names the clip.</exception>
    public void Add(PlannedClip clip, CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        double frames = FrameCount;
        _first ??= clip.Clip.Motion;
        Check(_first, clip, _index);
        CheckSize(clip, _index, ref frames);
        var played = clip.Played();
        if (_index == 0)
        {
            Begin(played, clip.Play.Nudge);
        }
        else
        {
            Add(_index, played, clip.Play.Overlap, clip.Play);
        }

        for (var again = 1; again < clip.Play.Repeat; again++)
        {
            cancel.ThrowIfCancellationRequested();
            Add(_index, played, RepeatOverlap(played.Motion), _repeated with { Smooth = clip.Play.Smooth });
        }

        _index++;
    }

    /// <summary>What a clip adds to a track is estimated before anything of it is made.</summary>
    /// <param name="frames">Frames before it; with it afterwards, overlaps not taken off.</param>
    /// <exception cref="RefusedException">It is more than may be made at once; names the clip.</exception>
    public static void CheckSize(PlannedClip clip, int index, ref double frames)
    {
        var (motion, play) = (clip.Clip.Motion, clip.Play);
        var own = motion.FrameCount / Math.Max(1e-9, play.Speed) * Math.Max(1, play.Repeat);
        frames += own;
        SampleBudget.Check(
            $"the track with clip {index + 1}, {motion.FrameCount} frames {play.Repeat} times at {play.Speed:0.###} times its speed,",
            frames,
            motion.Skeleton.Count + (motion.Morphs.Count / 7)
        );
    }

    /// <summary>One frame of it, as a motion of one frame.</summary>
    public Motion Frame(int frame)
    {
        frame = Math.Clamp(frame, 0, FrameCount - 1);
        var at = 0;
        foreach (var part in _done)
        {
            if (frame < at + part.FrameCount)
            {
                return MotionEdits.Range(part, frame - at, frame - at + 1);
            }

            at += part.FrameCount;
        }

        return MotionEdits.Range(_motion, frame - at, frame - at + 1);
    }

    private void Begin(ClipMotion clip, ClipNudge? nudge)
    {
        // The first clip meets nothing: it is put from where it is.
        clip = nudge is null ? clip : clip with { Motion = nudge.After(ClipPlacement.None, clip.Motion, 0).Lay(clip.Motion) };
        _motion = clip.Motion;
        _feet = BodyRoles.Complete(clip.Motion.Skeleton) ? PlantedFeet.Of(clip) : null;
        _peak = Peak(clip.Motion);
        _contacts.AddRange(clip.Contacts);
        _cuts.Add((0, clip.Motion.FrameCount));
    }

    public BakedMotion Baked() => new(_done.Count == 0 ? _motion : Whole([.. _done, _motion]), _reports, _contacts, _cuts);

    private void Add(int index, ClipMotion clip, int? overlap, ClipPlay play)
    {
        var own = Peak(clip.Motion);
        var length = overlap ?? 0;
        var used = (Start: 0, End: clip.Motion.FrameCount);
        if (overlap is null)
        {
            try
            {
                (var cut, used.Start, length) = Best(clip, Math.Max(_peak, own));
                clip = clip.Range(used.Start, used.End);
                _cuts[^1] = _cuts[^1] with { End = _cuts[^1].Start + cut };
                _motion = MotionEdits.Range(_motion, 0, cut);
            }
            catch (RefusedException e)
            {
                throw new RefusedException($"clip {index + 1} has no best moment: {e.Message}");
            }
        }

        if (length < 0)
        {
            throw new RefusedException($"clip {index + 1} overlaps the one before it by {length} frames");
        }

        var longest = Math.Min(_motion.FrameCount, clip.Motion.FrameCount);
        if (length > longest)
        {
            throw new RefusedException(
                $"the overlap of clip {index + 1} is {length} frames long, longer than the shorter of its two clips ({longest} frames)"
            );
        }

        if (index == _cuts.Count)
        {
            _cuts.Add(used);
        }

        Lay(index, clip, length, play, own);
    }

    private void Lay(int index, ClipMotion clip, int length, ClipPlay play, float own)
    {
        var (a, b) = (_motion, clip.Motion);
        var feet = _feet is null ? null : PlantedFeet.Of(clip);
        // Without an overlap the clips meet at the frame where one ends and the other begins.
        var (start, shared) = (a.FrameCount - length, Math.Max(1, length));
        var from = a.FrameCount - shared;
        var standing = feet is null ? null : _feet!.Standing(feet, from, shared);
        var placement = ClipPlacement.For(a, from, b, shared, play.Meet, standing);
        placement = play.Nudge is { } nudge ? nudge.After(placement, b, play.Meet.At(shared)) : placement;
        var laid = placement.Lay(b);
        var n = a.Skeleton.Count;
        var result = new Motion(a.Skeleton, a.FrameRate, start + b.FrameCount)
        {
            FirstFrame = a.FirstFrame,
            Warnings = a.Warnings,
            Morphs = Faces(a, b, start, length),
        };
        a.Rotations.AsSpan(0, start * n).CopyTo(result.Rotations);
        a.Translations.AsSpan(0, start * n).CopyTo(result.Translations);
        laid.Rotations.AsSpan(length * n).CopyTo(result.Rotations.AsSpan((start + length) * n));
        laid.Translations.AsSpan(length * n).CopyTo(result.Translations.AsSpan((start + length) * n));
        var most = MathF.Max(_peak, own);
        var blended = Blend(new OverlapBlend(a, start, laid, length, play.Shape), result, start, length, (_feet, feet), most);
        var calm =
            quick || play.Smooth == 0 || blended.Peak <= most
                ? null
                : Smoothed(result, (a, clip with { Motion = laid }), start, length, play, most, blended);
        var now = calm?.Now ?? blended;
        _reports.Add(
            new OverlapReport(
                index,
                _at + start,
                _at + start + length - 1,
                placement.Move.Length(),
                Rotations.Log(placement.Turn).Length() * 180 / Math.PI,
                now.Slide,
                most > 0 ? now.Peak / most : 1,
                MathF.Acos(Math.Clamp(Vector3.Transform(Vector3.UnitY, placement.Turn).Y, -1, 1)) * 180 / MathF.PI,
                now.Steps
            )
            {
                AccelerationPeakRatioBefore = calm is not null ? blended.Peak / most : double.NaN,
                Smoothed = calm is { } c ? (_at + c.Start, _at + c.End) : null,
            }
        );
        if (start > 0)
        {
            _done.Add(MotionEdits.Range(result, 0, start));
        }

        _at += start;
        _contacts.AddRange(clip.Contacts.Select(c => c with { Start = c.Start + _at, End = c.End + _at }));
        (_motion, _feet, _peak) = (start > 0 ? MotionEdits.Range(result, start, result.FrameCount) : result, feet, own);
    }

    /// <summary>
    /// Written again where a foot still slides: when the feet stand in what became of two clips is only seen then. What slides and jolts least
    /// stays, also if that is the blend with its feet as they come.
    /// </summary>
    private Outcome Blend(OverlapBlend blend, Motion result, int start, int length, (PlantedFeet? A, PlantedFeet? B) feet, float own)
    {
        Outcome Written(PlantedFeet? seen, double soft)
        {
            var steps = length == 0 ? string.Empty : blend.Into(result, start, feet.A, feet.B, seen, soft);
            return new Outcome(
                steps,
                feet.B is null || quick ? double.NaN : OverlapMeasure.Slide(result, start, start + length - 1),
                quick ? 0 : OverlapMeasure.Peak(result, start - 1, start + length)
            );
        }

        var now = Written(null, 0);
        if (feet.B is null || quick || length == 0)
        {
            return now;
        }

        var (best, how, last) = (now, ((PlantedFeet? Seen, double Soft))(null, 0), ((PlantedFeet? Seen, double Soft))(null, 0));
        var seen = PlantedFeet.Nowhere(length);
        for (var go = 1; go < Again && (now.Slide > Still || best.Badness(own) > 1); go++)
        {
            seen = go == 1 ? seen : seen.Or(PlantedFeet.Of(result, start, length, (int)(OverlapMeasure.Around * result.FrameRate)));
            last = (seen, go < 3 ? RestSeconds : 0);
            now = Written(seen, last.Soft);
            if (now.Badness(own) < best.Badness(own))
            {
                (best, how) = (now, last);
            }
        }

        if (last != how)
        {
            blend.Into(result, start, feet.A, feet.B, how.Seen, how.Soft);
        }

        return best;
    }

    /// <summary>
    /// An overlap that jolts, written again as one that is longer: both clips run on beyond where they were cut. Nothing where that is no better.
    /// </summary>
    private (Outcome Now, int Start, int End)? Smoothed(
        Motion result,
        (Motion A, ClipMotion B) clips,
        int start,
        int length,
        ClipPlay play,
        float own,
        Outcome was
    )
    {
        var more = Math.Min((play.Smooth + 1) / 2, Math.Min(start, clips.B.Motion.FrameCount - length - 1));
        if (more < 1)
        {
            return null;
        }

        // What a person has decided about contacts holds in the longer clips as well.
        ContactEdit[] Shifted(IEnumerable<ContactEdit> edits, int by) =>
            [.. edits.Where(c => c.End + by >= 0).Select(c => c with { Start = Math.Max(0, c.Start + by), End = c.End + by })];
        PlantedFeet? Feet(Motion motion, ContactEdit[] edits) => _feet is null ? null : PlantedFeet.Of(new ClipMotion(motion, edits));
        var (saidA, saidB) = (Shifted(_contacts, -_at), Shifted(clips.B.Contacts, more));
        var a = ClipExtension.After(clips.A, more, Feet(clips.A, saidA));
        var b = ClipExtension.Before(clips.B.Motion, more, Feet(clips.B.Motion, [.. clips.B.Contacts]));
        var tried = result.Copy();
        var (from, frames) = (start - more, length + (2 * more));
        var now = Blend(new OverlapBlend(a, from, b, frames, play.Shape), tried, from, frames, (Feet(a, saidA), Feet(b, saidB)), own);
        if (now.Badness(own) >= was.Badness(own))
        {
            return null;
        }

        tried.Rotations.CopyTo(result.Rotations, 0);
        tried.Translations.CopyTo(result.Translations, 0);
        return (now, from, from + frames - 1);
    }

    /// <summary>Where the earlier motion is cut, where the later clip begins, and how long they overlap.</summary>
    private (int Cut, int Begin, int Length) Best(ClipMotion clip, float peak)
    {
        var (a, b) = (_motion, clip.Motion);
        var from = a.FrameCount - (int)(a.FrameCount * Search);
        var to = Math.Max(1, (int)(b.FrameCount * Search));
        var least = Math.Max(2, (int)Math.Round(MomentFinder.OverlapSeconds * a.FrameRate));
        (from, to) = (Math.Max(0, Math.Min(from, a.FrameCount - least)), Math.Min(b.FrameCount, Math.Max(to, least)));
        var best = MomentFinder.Find(MotionEdits.Range(a, from, a.FrameCount), MotionEdits.Range(b, 0, to), 1)[0];
        // Long enough that the way from one pose to the other adds little to what the clips do anyway.
        var needed = Math.Sqrt(5.77 * 2 * best.DistanceMillimetres / 1000 / Math.Max(1e-9, Quiet * peak * a.FrameRate * a.FrameRate));
        var length = (int)Math.Round(Math.Max(MomentFinder.OverlapSeconds, needed) * a.FrameRate);
        length = Math.Clamp(length, 1, Math.Min(a.FrameCount - from - best.A, b.FrameCount - best.B));
        return (from + best.A + length, best.B, length);
    }

    private static Motion Whole(IReadOnlyList<Motion> parts)
    {
        var first = parts[0];
        var whole = new Motion(first.Skeleton, first.FrameRate, parts.Sum(p => p.FrameCount))
        {
            FirstFrame = first.FirstFrame,
            Warnings = first.Warnings,
            Morphs = parts
                .SelectMany(p => p.Morphs.Keys)
                .Distinct()
                .ToDictionary(
                    name => name,
                    name => parts.SelectMany(p => p.Morphs.GetValueOrDefault(name) ?? new float[p.FrameCount]).ToArray()
                ),
        };
        var at = 0;
        foreach (var part in parts)
        {
            part.Rotations.CopyTo(whole.Rotations, at);
            part.Translations.CopyTo(whole.Translations, at);
            at += part.Rotations.Length;
        }

        return whole;
    }

    private float Peak(Motion motion) => OverlapMeasure.Peak(motion, 0, motion.FrameCount - 1);

    private static Dictionary<string, float[]> Faces(Motion a, Motion b, int start, int length)
    {
        var faces = new Dictionary<string, float[]>();
        foreach (var name in a.Morphs.Keys.Union(b.Morphs.Keys))
        {
            var (one, other) = (a.Morphs.GetValueOrDefault(name), b.Morphs.GetValueOrDefault(name));
            var weights = new float[start + b.FrameCount];
            for (var f = 0; f < weights.Length; f++)
            {
                var w =
                    f < start ? 0
                    : f >= start + length ? 1
                    : CubicSpline.MinimumJerk((f - start + 1) / (float)(length + 1));
                weights[f] = ((1 - w) * (f < a.FrameCount ? one?[f] ?? 0 : 0)) + (w * (f >= start ? other?[f - start] ?? 0 : 0));
            }

            faces[name] = weights;
        }

        return faces;
    }

    private static void Check(Motion first, PlannedClip planned, int index)
    {
        var motion = planned.Clip.Motion;
        var name = $"clip {index + 1}";
        if (motion.FrameCount < 1)
        {
            throw new RefusedException($"{name} has no frame");
        }

        if (!(planned.Play.Speed > 0) || !double.IsFinite(planned.Play.Speed) || planned.Play.Repeat < 1)
        {
            throw new RefusedException($"{name} is played {planned.Play.Repeat} times at {planned.Play.Speed:0.###} times its speed");
        }

        if (Math.Abs(motion.FrameRate - first.FrameRate) > 1e-6)
        {
            throw new RefusedException($"{name} is at {motion.FrameRate:0.###} frames a second, the first at {first.FrameRate:0.###}");
        }

        if (motion.Skeleton.Count != first.Skeleton.Count)
        {
            throw new RefusedException(
                $"{name} is on another skeleton: it has {motion.Skeleton.Count} joints, the first clip {first.Skeleton.Count}"
            );
        }

        if (first.Skeleton.FirstOther(motion.Skeleton) is { } j)
        {
            throw new RefusedException(
                $"{name} is on another skeleton: joint '{motion.Skeleton[j].Name}' differs from the first clip's '{first.Skeleton[j].Name}'"
            );
        }
    }

    /// <summary>A cycle shares one frame with itself; anything else blends into itself.</summary>
    private static int RepeatOverlap(Motion motion)
    {
        var roles = JointCloud.Shared(motion.Skeleton, motion.Skeleton);
        var closed =
            roles.Length > 3 && motion.FrameCount > 1 && MomentFinder.Distance(motion, motion.FrameCount - 1, motion, 0, 1) < OnePose;
        return closed
            ? 1
            : Math.Clamp(
                (int)Math.Min(RepeatSeconds * motion.FrameRate, motion.FrameCount * RepeatShare),
                1,
                Math.Max(1, motion.FrameCount - 1)
            );
    }
}
