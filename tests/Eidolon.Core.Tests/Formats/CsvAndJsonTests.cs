using System.Numerics;
using System.Text;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;

namespace Eidolon.Core.Tests.Formats;

public sealed class CsvAndJsonTests
{
    private static byte[] B(string text) => Encoding.UTF8.GetBytes(text);

    [Theory]
    [InlineData("m", "Y")]
    [InlineData("mm", "Z")]
    [InlineData("in", "Y")]
    public void A_table_of_points_comes_back(string units, string up)
    {
        var take = new MarkerTake(
            ["A", "B"],
            60,
            3,
            [new(1, 2, 3), MarkerTake.Hidden, new(4, 5, 6), new(0.1f, 0.2f, 0.3f), new(-1, 0, 1), MarkerTake.Hidden]
        )
        {
            FirstFrame = 7,
        };
        using var stream = new MemoryStream();
        CsvMarkers.Write(stream, take, units, up);
        var back = CsvMarkers.Read(stream.ToArray(), "x.csv");
        Assert.Equal((60, 3, 7), (back.FrameRate, back.FrameCount, back.FirstFrame));
        Assert.Equal(take.Names, back.Names);
        for (var k = 0; k < take.Positions.Length; k++)
        {
            Assert.True(
                MarkerTake.Seen(take.Positions[k])
                    ? (take.Positions[k] - back.Positions[k]).Length() < 1e-5f
                    : !MarkerTake.Seen(back.Positions[k])
            );
        }
    }

    [Fact]
    public void A_table_without_a_rate_reads_it_from_the_times_and_says_so()
    {
        var take = CsvMarkers.Read(B("frame,time,A.x,A.y,A.z\n0,0.00,1,2,3\n1,0.02,1,2,3\n2,0.04,1,2,3\n"), "x.csv");
        Assert.Equal(50, take.FrameRate, 6);
        Assert.Contains(take.Warnings, w => w.Contains("50", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("", "line 1")]
    [InlineData("frame,time,A.x,A.y\n0,0,1,2\n", "header")]
    [InlineData("frame,time,A.x,A.y,A.z\n", "no rows")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2\n", "line 2")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2,3,4\n", "line 2")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,now,1,2,3\n", "time")]
    [InlineData("frame,time,A.x,A.y,A.z\n0,0,1,2,NaN\n", "not a number")]
    [InlineData("frame,time,A.x,A.y,A.z,A.x,A.y,A.z\n0,0,1,2,3,1,2,3\n", "same name")]
    [InlineData("# points, frameRate=fast\nframe,time,A.x,A.y,A.z\n0,0,1,2,3\n", "frame rate")]
    public void A_broken_table_says_where_and_why(string text, string expected) =>
        Assert.Contains(
            expected,
            Assert.Throws<InvalidInputException>(() => CsvMarkers.Read(B(text), "x.csv")).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void A_marker_set_comes_back()
    {
        var set = HarbourMarkers.Set(HarbourCast.Ines);
        var back = MarkerSetJson.Read(B(MarkerSetJson.Write(set)), "set.json");
        Assert.Equal(53, back.Markers.Count);
        Assert.Equal(set.Links, back.Links);
        Assert.All(set.Markers.Zip(back.Markers), p =>
            Assert.True(
                p.First.Name == p.Second.Name
                    && p.First.Segment == p.Second.Segment
                    && (p.First.Offset!.Value - p.Second.Offset!.Value).Length() < 1e-5f
            )
        );
    }

    [Theory]
    [InlineData("{", "line 1")]
    [InlineData("[]", "markers")]
    [InlineData("""{ "markers": [] }""", "no markers")]
    [InlineData("""{ "markers": [{ "segment": "Head" }] }""", "markers[0]")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "Tail" }] }""", "'Tail' is not a body role")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "3" }] }""", "not a body role")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "Head", "offset": [1, 2] }] }""", "offset")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "Head" }, { "name": "A", "segment": "Head" }] }""", "two markers")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "Head" }], "links": [["A", "B"]] }""", "'B' is not a marker")]
    [InlineData("""{ "markers": [{ "name": "A", "segment": "Head" }], "links": 5 }""", "links")]
    public void A_broken_marker_set_names_the_marker_and_the_reason(string text, string expected) =>
        Assert.Contains(
            expected,
            Assert.Throws<InvalidInputException>(() => MarkerSetJson.Read(B(text), "set.json")).Message,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("""{ "roles": { "Pelvis": "nowhere" } }""", "no joint 'nowhere'")]
    [InlineData("""{ "roles": { "Wing": "Pelvis" } }""", "not a body role")]
    [InlineData("""{ "roles": { "Pelvis": "Pelvis", "Head": "Pelvis" } }""", "plays two roles")]
    [InlineData("""{ "roles": { "Pelvis": 4 } }""", "joint name")]
    [InlineData("""{ }""", "'roles' is missing")]
    public void A_broken_role_map_names_the_role(string text, string expected) =>
        Assert.Contains(
            expected,
            Assert.Throws<InvalidInputException>(() => RoleMapJson.Read(B(text), "map.json", Anthropometry.Body(1.7f))).Message,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("""{ "joints": [], "markers": [] }""")]
    [InlineData("""{ "joints": [{ "name": "a", "parent": "b", "offset": [0, 0, 0] }], "markers": [] }""")]
    [InlineData("""{ "joints": [{ "name": "a", "role": "Head", "offset": [0, 0, 0] }], "markers": [] }""")]
    [InlineData("""{ "joints": [{ "name": "a", "role": "Pelvis", "offset": [0, 0, "x"] }], "markers": [] }""")]
    [InlineData(
        """{ "joints": [{ "name": "a", "role": "Pelvis", "offset": [0, 0, 0] }], "markers": [{ "name": "m", "joint": "z", "offset": [0, 0, 0] }] }"""
    )]
    public void A_broken_performer_is_refused(string text) =>
        Assert.Throws<InvalidInputException>(() => PerformerJson.Read(B(text), "p.json"));
}
