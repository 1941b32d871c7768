using System.Globalization;
using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Video;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;
using Xunit.Abstractions;

namespace Eidolon.Browser.Tests.Journeys;

/// <summary>
/// Journey 4: three witness films not in step; a stretch in which the net was taken for a hand is mended by dragging the hand on five pictures of two
/// films, solved again, and compared with the solve before, then with what the suit says of the same performance.
/// </summary>
public sealed class NetMendingTests(DemoStudio studio, ITestOutputHelper output) : Journey(studio), IClassFixture<DemoStudio>
{
    private static readonly BodyRole[] Arm = [BodyRole.ForearmR, BodyRole.HandR];

    [Fact]
    public void A_failed_stretch_is_mended_by_dragging_points()
    {
        var take = Take("HL_044_cam-mend-net_01").Id;
        var shot = NetFilms.Shoot(HarbourCast.Ines);
        Browser.Open($"/takes/{take}/solve");
        Assert.Contains("3 films", Browser.One(".e-right").Text, StringComparison.Ordinal);
        Assert.Contains("late", Browser.One("#films").Text, StringComparison.Ordinal);
        var before = Error(take, shot);
        Assert.True(before > 100, $"the stretch is only {before:0} mm off: nothing to mend");

        // The worst comes first, and the film it is worst in is shown.
        KeyPress("n");
        Browser.Until("return eidolon.films.selected !== null", "the point that is off");
        foreach (var film in new[] { 1, 0 })
        {
            if (film == 0)
            {
                Press("#films [data-film='0'] button");
            }

            for (var k = 0; k < 5; k++)
            {
                Drag(film, NetFilms.MistakeStart + 2 + (k * 8), shot);
            }
        }

        Browser.Until("return document.querySelectorAll('[data-operation=film-points]').length === 10", "ten corrections");
        Assert.Contains("out of date", Browser.One(".e-right").Text, StringComparison.Ordinal);
        PressAndWait("#solve-films", "the films solved again");
        var after = Error(take, shot);
        output.WriteLine($"{before:0} mm before, {after:0} mm after");
        Assert.True(after < before / 2, $"{before:0} mm before, {after:0} mm after");

        Press("#compare-solves");
        Browser.Until("return location.pathname.endsWith('/compare') && document.body.dataset.ready === 'true'", "the comparison", 60);
        Assert.Contains("without: points by hand", Browser.One("#stage-a").Text, StringComparison.Ordinal);
        Assert.Contains("mm", Browser.One("#apart").Text, StringComparison.Ordinal);
        var worst = Browser.One("#joints tbody tr").Text;
        Assert.Contains("Hand", worst, StringComparison.Ordinal);
        Assert.Matches("better|alike", Browser.One("#verdict").Text);

        // She wore the suit, too: the films against it.
        Choose("#choose-a", "from the suit");
        Browser.Until(
            "return document.querySelector('#stage-a')?.textContent.includes('from the suit') && document.body.dataset.ready === 'true'",
            "the suit's solve",
            60
        );
        Assert.DoesNotContain("hardly", Browser.One("#verdict").Text, StringComparison.Ordinal);
        Assert.Equal("Use A", Browser.One("#use-a").Text);
        output.WriteLine(Actions.ToString(CultureInfo.InvariantCulture) + " actions");
        Assert.True(Actions <= 24, $"{Actions} actions");
    }

    /// <summary>Drags the right wrist to where a careful eye sees it in the picture of a film.</summary>
    private void Drag(int film, int frame, NetFilms.Shot shot)
    {
        Browser.Js($"eidolon.clock.pause(); eidolon.clock.set({frame})");
        var own = Convert.ToInt32(Browser.Js("return eidolon.films.frame"), CultureInfo.InvariantCulture);
        Assert.Equal(film, Convert.ToInt32(Browser.Js("return eidolon.films.current"), CultureInfo.InvariantCulture));
        var (u, v) = shot.Seen(film, own, BodyRole.HandR);
        Did();
        var entries = Convert.ToInt32(
            Browser.Js("return document.querySelectorAll('[data-operation=film-points]').length"),
            CultureInfo.InvariantCulture
        );
        var at =
            (IReadOnlyCollection<object>)
                Browser.Js(
                    """
                    const f = eidolon.films, b = document.querySelector('#picture svg').getBoundingClientRect(), v = f.view();
                    const [pu, pv] = f.film.at(f.frame, f.film.shown.indexOf('WristR'));
                    const x = u => b.left + ((u - v.x) / v.w) * b.width, y = w => b.top + ((w - v.y) / v.h) * b.height;
                    return [x(pu), y(pv), x(arguments[0]), y(arguments[1])]
                    """,
                    u,
                    v
                )!;
        int[] p = [.. at.Select(x => (int)Math.Round(Convert.ToDouble(x, CultureInfo.InvariantCulture)))];
        new OpenQA.Selenium.Interactions.Actions(Browser.Driver)
            .MoveToLocation(p[0], p[1])
            .ClickAndHold()
            .MoveToLocation((p[0] + p[2]) / 2, (p[1] + p[3]) / 2)
            .MoveToLocation(p[2], p[3])
            .Release()
            .Perform();
        Browser.Until(
            $"return document.querySelectorAll('[data-operation=film-points]').length === {entries + 1}",
            "the correction kept",
            60
        );
    }

    /// <summary>How far elbow and hand are from the truth in the stretch, pelvis on pelvis, millimetres.</summary>
    private double Error(int take, NetFilms.Shot shot)
    {
        using var scope = Server.Services.CreateScope();
        var motion = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take).Solved.Single().Motion!;
        var truth = shot.Truth.Actors[0].Motion;
        var (a, b) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(motion));
        double sum = 0;
        var n = 0;
        for (var f = NetFilms.MistakeStart; f <= NetFilms.MistakeEnd; f++)
        {
            foreach (var role in Arm)
            {
                Vector3 p = a[(shot.Fine(0, f) * truth.Skeleton.Count) + truth.Skeleton.IndexOf(role)],
                    q = b[(f * motion.Skeleton.Count) + motion.Skeleton.IndexOf(role)];
                var pelvis = a[shot.Fine(0, f) * truth.Skeleton.Count] - b[f * motion.Skeleton.Count];
                (sum, n) = (sum + (Vector3.Distance(p, q + pelvis) * 1000), n + 1);
            }
        }

        return sum / n;
    }
}
