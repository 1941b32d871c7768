using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>One to three films to a motion: legs put right, cameras placed, first poses, films brought in step, all poses together, feet held.</summary>
public static class FilmSolver
{
    /// <summary>Films begin within this of one another, seconds.</summary>
    private const double MostOffset = 0.5;

    /// <summary>Points named as worst at most.</summary>
    private const int MostWorst = 40;

    /// <param name="cameras">One a film, in the same order; one that is not placed is placed from the figure and the floor y = 0.</param>
    /// <param name="body">The performer in the T-pose facing +Z, first joint the pelvis, rest turns identity.</param>
    /// <param name="fixes">Points that a person put right, over the films with their legs put back.</param>
    /// <param name="edits">What a person has decided about contacts.</param>
    /// <param name="measured">The body is the performer's own; false for a usual one of their height, whose bones several films put right.</param>
    /// <param name="rate">Frames a second of the motion; the first film's when left out.</param>
    /// <exception cref="RefusedException">It cannot be solved as it is; says why and what to do.</exception>
    public static (Motion Motion, FilmReport Report) Solve(
        IReadOnlyList<FilmTake> films,
        IReadOnlyList<CameraModel> cameras,
        Skeleton body,
        IReadOnlyList<FilmFix>? fixes = null,
        IReadOnlyList<ContactEdit>? edits = null,
        bool measured = true,
        double? rate = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        if (films.Count == 0 || films.Count != cameras.Count)
        {
            throw new RefusedException($"{films.Count} films need as many cameras, there are {cameras.Count}");
        }

        var legs = films.Select(LegExchange.Fix).ToArray();
        films = FilmFixes.Apply([.. legs.Select(l => l.Film)], fixes ?? []);
        if (!measured && films.Count > 1)
        {
            var (first, seen, _) = Fit(films, cameras, body, edits, cancel: cancel);
            body = FilmProportions.Of(first, seen);
            progress?.Report(0.5);
        }

        var (model, clock, fit) = Fit(films, cameras, body, edits, progress, cancel);
        var motion = fit.Motion(rate ?? clock.Rate);
        FilmCalm.Apply(motion);
        for (var pass = 0; pass < 2; pass++)
        {
            // At few frames a second a held foot shows more of its contact than one that still trembles.
            FootPin.Hold(motion, 0, motion.FrameCount - 1, edits ?? []);
        }

        progress?.Report(1);
        return (motion, Report(clock, model, fit, motion, [.. legs.Select(l => l.Ranges)], edits ?? []));
    }

    /// <summary>All poses of a body in all films, and what was found on the way.</summary>
    private static (FilmBody Body, FilmClock Clock, FilmFit Fit) Fit(
        IReadOnlyList<FilmTake> films,
        IReadOnlyList<CameraModel> cameras,
        Skeleton body,
        IReadOnlyList<ContactEdit>? edits,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var model = new FilmBody(Grounding.OnFloor(body));
        var clock = new FilmClock(model, films, cameras);
        for (var k = 0; k < films.Count; k++)
        {
            if (StillPoints.CameraMoves(model, new FilmClock(model, [clock.Films[k]], [cameras[k]])))
            {
                throw new RefusedException(
                    $"film {k + 1}: no foot ever stands still in its picture though the feet are well seen: "
                        + "its camera moves, and only a camera that stands can be solved"
                );
            }
        }

        if (!clock.Cameras[0].IsPlaced)
        {
            clock.Cameras[0] = FilmPlacement.FromFigure(clock.Films[0], clock.Cameras[0], model);
        }

        var start = FilmStart.Find(model, clock, cancel);
        ArmSides.Choose(model, clock, start, cancel);
        progress?.Report(0.3);
        var fit = new FilmFit(model, clock, start, edits ?? []);
        fit.Run(6, null, cancel);
        for (var k = 1; k < films.Count; k++)
        {
            Join(model, clock, fit, k);
            fit.Restart();
            fit.Arms(cancel);
            fit.Run(4, null, cancel);
        }

        progress?.Report(0.5);
        for (var round = 0; round < 3; round++)
        {
            if (round < 2)
            {
                fit.LookAgain(cancel);
            }

            InStep(model, clock, fit, against: round == 0);
            fit.Stand();
            fit.Run(4, null, cancel);
            progress?.Report(0.5 + (0.15 * (round + 1)));
        }

        return (model, clock, fit);
    }

    /// <summary>Brings one more film in: its start by what the others know of the body, its camera if that is not known.</summary>
    private static void Join(FilmBody body, FilmClock clock, FilmFit fit, int film)
    {
        if (!clock.Cameras[film].IsPlaced)
        {
            (clock.Cameras[film], clock.Offsets[film]) = FilmPlacement.FromMotion(body, clock, fit.Smooth, film, MostOffset);
        }

        clock.Offsets[film] = Step(body, clock, fit, film, 0, MostOffset);
        clock.Used[film] = true;
    }

    /// <summary>
    /// Puts the starts right against the motion of all films. A wrong start pulls the motion along: how far it was pulled shows in the first
    /// film, whose start is what all others count from.
    /// </summary>
    /// <param name="against">Starts may be off by much still, and the motion with them.</param>
    private static void InStep(FilmBody body, FilmClock clock, FilmFit fit, bool against)
    {
        if (clock.Films.Length == 1)
        {
            return;
        }

        var reach = 1.5 / clock.Rate;
        var found = clock.Offsets.Select((o, k) => Step(body, clock, fit, k, o, reach)).ToArray();
        for (var k = 1; k < found.Length; k++)
        {
            clock.Offsets[k] = found[k] - (against ? found[0] : 0);
        }
    }

    /// <summary>The start of a film at which it fits the motion best: coarse over a range, then fine.</summary>
    private static double Step(FilmBody body, FilmClock clock, FilmFit fit, int film, double around, double reach)
    {
        var solver = new FilmFrame(body);
        var every = Math.Max(1, fit.Smooth.Length / 150);
        double Cost(double offset)
        {
            double sum = 0;
            var n = 0;
            for (var f = 0; f < fit.Smooth.Length; f += every)
            {
                var sights = clock.Of(film, f, offset);
                if (sights.Count > 0)
                {
                    sum += solver.SightCost(fit.Smooth[f], sights) / sights.Count;
                    n++;
                }
            }

            return n == 0 ? double.PositiveInfinity : sum / n;
        }

        var (best, step) = (around, Math.Min(reach / 4, 0.5 / clock.Films[film].FrameRate));
        var least = double.PositiveInfinity;
        for (var o = around - reach; o <= around + reach + 1e-9; o += step)
        {
            var cost = Cost(o);
            (best, least) = cost < least ? (o, cost) : (best, least);
        }

        // A parabola through the three lowest.
        var (left, right) = (Cost(best - step), Cost(best + step));
        var bend = left - (2 * least) + right;
        return bend > 1e-12 ? best + (step * Math.Clamp(0.5 * (left - right) / bend, -1, 1)) : best;
    }

    private static FilmReport Report(
        FilmClock clock,
        FilmBody body,
        FilmFit fit,
        Motion motion,
        List<(int Start, int End)>[] exchanged,
        IReadOnlyList<ContactEdit> edits
    )
    {
        var solver = new FilmFrame(body);
        var misses = new List<FilmMiss>();
        var pixels = clock.Films.Select(_ => new List<double>()).ToArray();
        for (var f = 0; f < fit.Smooth.Length; f++)
        {
            var places = solver.Place(fit.Smooth[f]).ToArray();
            for (var k = 0; k < clock.Films.Length; k++)
            {
                foreach (var s in clock.Of(k, f, clock.Offsets[k]))
                {
                    var off = s.Miss(places[s.Point]);
                    var own = (int)Math.Round(((f / clock.Rate) - clock.Offsets[k]) * clock.Films[k].FrameRate);
                    misses.Add(new FilmMiss(k, own, body.Points[s.Point].Name, off));
                    pixels[k].Add(off);
                }
            }
        }

        var warnings = clock.Films.SelectMany(f => f.Warnings).ToList();
        for (var k = 0; k < exchanged.Length; k++)
        {
            var count = exchanged[k].Sum(r => r.End - r.Start + 1);
            if (count > 0)
            {
                warnings.Add($"film {k + 1}: left and right legs were exchanged by the tracker in {count} frames and put back");
            }
        }

        return new FilmReport
        {
            OffsetsSeconds = clock.Offsets,
            Cameras = clock.Cameras,
            ReprojectionPixels = [.. pixels.Select(Median)],
            Worst = [.. misses.OrderByDescending(m => m.Pixels).Take(MostWorst)],
            ExchangedLegs = [.. exchanged.SelectMany((r, k) => r.Select(x => new ExchangedLegs(k, x.Start, x.End)))],
            Contacts = BodyContacts.Find(motion, edits).Joints,
            Warnings = warnings,
        };
    }

    private static double Median(List<double> values)
    {
        values.Sort();
        return values.Count == 0 ? double.NaN : values[values.Count / 2];
    }
}
