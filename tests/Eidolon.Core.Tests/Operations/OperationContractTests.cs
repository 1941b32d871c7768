using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Operations;

/// <summary>What each operation promises the Ledger besides its result: where it stands, whether it waits in a queue, what it reads.</summary>
public sealed class OperationContractTests
{
    private static readonly NodeScope Scope = new(7, 9);

    /// <summary>Name → node, Step, quick, set-up or once, order group, may be in a Recipe, what it reads.</summary>
    [Theory]
    [InlineData("reconstruct", "Markers Label - - - recipe Pictures0")]
    [InlineData("label", "Markers Label - - - recipe MarkerSet0,References0,Props0")]
    [InlineData("set-label", "Markers Label quick - - - ")]
    [InlineData("exchange", "Markers Label quick - - - ")]
    [InlineData("unlabel", "Markers Label quick - - - MarkerSet0")]
    [InlineData("split", "Markers Label quick - - - ")]
    [InlineData("tidy", "Markers Label quick - - recipe ")]
    [InlineData("join", "Markers Label quick - - - ")]
    [InlineData("discard", "Markers Label quick - - - ")]
    [InlineData("fill", "Markers Clean - - cleaning recipe MarkerSet0,Performers0")]
    [InlineData("despike", "Markers Clean - - cleaning recipe ")]
    [InlineData("smooth", "Markers Clean - - cleaning recipe ")]
    [InlineData("hide", "Markers Clean quick - cleaning - ")]
    [InlineData("trim", "Markers Clean - - - - ")]
    [InlineData("trim-motion", "Solve Clean - - - - ")]
    [InlineData("solve", "Solve Solve - setup - recipe Performer7")]
    [InlineData("solve-suit", "Solve Solve - setup - recipe Performer7")]
    [InlineData("solve-video", "Solve Solve - setup - recipe Performer7")]
    [InlineData("film-points", "Solve Solve quick - - - ")]
    [InlineData("straighten-path", "Solve Solve - - - - ")]
    [InlineData("close-path", "Solve Solve - - - - ")]
    [InlineData("hands", "Solve Solve - once - recipe Performer7,MarkerSet0")]
    [InlineData("face", "Solve Solve - once - recipe Face7")]
    [InlineData("find-prop", "Places Solve - setup - recipe Prop7")]
    [InlineData("contacts", "Solve Clean quick - contacts - ")]
    [InlineData("retarget", "Cast Retarget - setup - recipe Character9")]
    [InlineData("push-out", "Cast Retarget - - - recipe Character9")]
    [InlineData("grip", "Cast Retarget - once - - ")]
    [InlineData("together", "Cast Retarget - once - - Character9")]
    [InlineData("attach", "Attached Retarget - setup - - ")]
    [InlineData("clips", "Track Assemble - setup - - ")]
    [InlineData("loop", "Track Assemble - once - - ")]
    [InlineData("layer", "Layers Polish quick - layers - ")]
    public void Every_operation_keeps_its_promises(string name, string promises)
    {
        var o = OperationRegistry.Find(name);
        var said = string.Join(
            ' ',
            o.Node,
            o.Step,
            o.Quick ? "quick" : "-",
            o.SetUp ? "setup"
                : o.Once ? "once"
                : "-",
            o.OrderGroup ?? "-",
            o.FitsRecipe([]) ? "recipe" : "-",
            string.Join(',', o.Reads(Scope, []).Select(r => $"{r.Kind}{r.Id}"))
        );
        Assert.Equal(promises, said);
    }

    [Fact]
    public void Every_operation_is_in_the_table_above()
    {
        var named = typeof(OperationContractTests)
            .GetMethod(nameof(Every_operation_keeps_its_promises))!
            .GetCustomAttributes(typeof(InlineDataAttribute), false)
            .Select(a => (string)((InlineDataAttribute)a).GetData(null!).Single()[0]);
        Assert.Equal(OperationRegistry.All.Keys.Order(), named.Order());
    }

    [Theory]
    [InlineData("{\"marker\":\"A\"}", false)]
    [InlineData("{\"frame\":3}", false)]
    [InlineData("{\"cutoff\":3}", true)]
    public void What_speaks_of_one_takes_own_dots_and_frames_is_in_no_Recipe(string parameters, bool fits) =>
        Assert.Equal(fits, OperationRegistry.Find("smooth").FitsRecipe((JsonObject)JsonNode.Parse(parameters)!));

    [Theory]
    [InlineData(BodyRole.Head, "Head")]
    [InlineData(BodyRole.Neck, "Head")]
    [InlineData(BodyRole.Chest, "Trunk")]
    [InlineData(BodyRole.Pelvis, "Trunk")]
    [InlineData(BodyRole.HandL, "Left arm")]
    [InlineData(BodyRole.UpperArmR, "Right arm")]
    [InlineData(BodyRole.ThighL, "Left leg")]
    [InlineData(BodyRole.ToesR, "Right leg")]
    public void A_segment_belongs_to_a_part_of_the_body(BodyRole segment, string part) =>
        Assert.Equal(part, LabelOperations.PartOf(segment));

    [Fact]
    public void A_take_is_usually_trimmed_to_where_nine_of_ten_named_markers_are_seen()
    {
        var names = Enumerable.Range(0, 10).Select(i => $"M{i}").Append("Dot_001").ToArray();
        var take = new MarkerTake(names, 120, 100);
        for (var f = 0; f < 100; f++)
        {
            for (var m = 0; m < 11; m++)
            {
                // One of ten is hidden in frame 20, two before it; the nameless one does not count.
                var seen = m == 10 ? f < 5 : f is >= 20 and <= 80 && (m > 0 || f > 20);
                take[f, m] = seen || (m > 1 && f < 20) ? Vector3.One : MarkerTake.Hidden;
            }
        }

        Assert.Equal((20, 80), TrimOperations.Usable(take));
        Assert.Equal((0, 9), TrimOperations.Usable(new MarkerTake(["M"], 120, 10, [.. Enumerable.Repeat(MarkerTake.Hidden, 10)])));
    }

    [Fact]
    public void One_clip_is_itself_and_two_are_joined()
    {
        var s = Anthropometry.Body(1.7f);
        MotionValue Clip(int frames) =>
            new(
                new Motion(
                    s,
                    30,
                    frames,
                    [.. Enumerable.Repeat(Quaternion.Identity, frames * s.Count)],
                    [.. Enumerable.Range(0, frames).SelectMany(_ => s.Joints.Select(j => j.Offset))]
                )
            );
        OperationResult Run(string parameters, params MotionValue[] clips) =>
            SceneOperations.Clips.Run(
                new OperationInput(null, clips),
                (JsonObject)JsonNode.Parse(parameters)!,
                new OperationContext(null!, Scope, new Progress<double>(), default)
            );
        var one = Run("{\"clips\":[{\"node\":1,\"start\":5,\"end\":45}],\"overlap\":10}", Clip(60));
        Assert.Equal((40, "40 frames"), (one.Value.FrameCount, one.Summary));
        Assert.Equal(40, (int)one.Report["frames"]!);
        var two = Run("{\"clips\":[{\"node\":1,\"start\":0},{\"node\":2,\"start\":0}],\"overlap\":10}", Clip(60), Clip(50));
        Assert.Equal(100, two.Value.FrameCount);
        Assert.Equal("2 clips, 100 frames", two.Summary);
        var overlap = Assert.Single((JsonArray)two.Report["overlaps"]!)!;
        Assert.Equal(9, (int)overlap["end"]! - (int)overlap["start"]!);
        Assert.Equal(0.0, (double)overlap["slideMillimetres"]!, 3);
    }
}
