using System.Globalization;
using System.Numerics;
using System.Text.RegularExpressions;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Tests;

/// <summary>Rows of small figures: whole, with what is carried and what stands around.</summary>
public sealed partial class PosturesTests
{
    private static Motion Standing(float height, float along = 0)
    {
        var body = Anthropometry.Body(1.9f);
        var motion = Motion.AtRest(body, 60, 120);
        for (var f = 0; f < 120; f++)
        {
            motion.TranslationsAt(f)[0] += new Vector3(along, height, 0);
        }

        return motion;
    }

    /// <summary>Every place that is drawn, x within its own moment.</summary>
    private static (float X, float Y)[] Drawn(string svg, string style) =>
        [
            .. Regex
                .Matches(svg, $"class=\"{style}\" d=\"([^\"]+)\"")
                .SelectMany(m => Pair().Matches(m.Groups[1].Value))
                .Select(m => (Number(m.Groups[1].Value), Number(m.Groups[2].Value))),
        ];

    private static float Number(string text) => float.Parse(text, CultureInfo.InvariantCulture);

    [Theory]
    [InlineData(0)]
    [InlineData(0.51f)]
    [InlineData(2)]
    public void A_figure_is_seen_whole_however_high_it_stands(float height)
    {
        var svg = Postures.Svg([new(Standing(height))]);
        var limbs = Drawn(svg, "p[lrc]( pt)?").Concat(Drawn(svg, "pc"));
        Assert.Equal(6, svg.Split("<svg x=").Length - 1);
        Assert.All(limbs, p => Assert.InRange(p.Y, 1, 31));
        var head = Regex.Matches(svg, "cy=\"([-0-9.]+)\"").Select(m => Number(m.Groups[1].Value)).Min();
        Assert.InRange(head, 2.1f, height > 0 ? 8 : 12);
    }

    [Fact]
    public void Two_stand_as_far_apart_as_there_is_room_and_none_is_none()
    {
        var svg = Postures.Svg([new(Standing(0, -4)), new(Standing(0, 4))]);
        Assert.Equal(3, svg.Split("<svg x=").Length - 1);
        // Their legs: arms held out may reach beyond it.
        Assert.All(Drawn(svg, "p[lr]").Where(p => p.Y > 16), p => Assert.InRange(p.X, 2, 50));
        Assert.Empty(Postures.Svg([]));
    }

    [Fact]
    public void What_is_carried_is_where_it_is_and_what_is_not_seen_is_not_drawn()
    {
        var motion = Standing(0);
        var pelvis = motion.TranslationsAt(0)[0];
        Vector3[] places = [.. Enumerable.Range(0, 120).Select(f => f < 60 ? pelvis with { Y = 1 } : MarkerTake.Hidden)];
        var crate = new PostureThings.Prop(HarbourProps.Crate, new PropPlaces(60, places, [.. places.Select(_ => Quaternion.Identity)]));
        var svg = Postures.Svg([new(motion)], [crate]);
        // Three of the six moments.
        Assert.Equal(3, Regex.Count(svg, "class=\"pp\""));
        var middle = Drawn(svg, "pp").Average(p => p.X);
        Assert.InRange(middle, 9, 17);
        Assert.InRange(Drawn(svg, "pp").Average(p => p.Y), 30 - (1.6 * 15.5), 30 - (0.6 * 15.5));
    }

    [Fact]
    public void Steps_stand_under_the_feet_a_rope_goes_to_the_hands_and_what_is_far_away_is_left_out()
    {
        var motion = Standing(0);
        SetPiece Piece(string kind, double x) => new() { Kind = kind, X = x };
        var steps = Postures.Svg([new(motion)], null, [Piece("steps", 0)]);
        Assert.Equal(6, Regex.Count(steps, "<g class=\"ps\">"));
        Assert.Equal(30, Regex.Count(steps, "<path d="));
        var rope = Postures.Svg([new(motion)], null, [Piece("bollard", 1)]);
        var ends = Drawn(rope, "po");
        Assert.Equal(12, ends.Length);
        // From below the knee up to the hands, which hang or are held out at the height of the chest.
        Assert.True(ends[0].Y > ends[1].Y + 5, $"{ends[0]} {ends[1]}");
        Assert.DoesNotContain(
            "\"ps\"",
            Postures.Svg([new(motion)], null, [Piece("steps", 40), Piece("no such thing", 0)]),
            StringComparison.Ordinal
        );
    }

    [GeneratedRegex("([-0-9.]+) ([-0-9.]+)")]
    private static partial Regex Pair();
}
