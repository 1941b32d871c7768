using System.Text;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Formats;

public sealed class FileTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-files").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    [Fact]
    public void A_file_is_the_old_one_or_the_new_one_and_never_a_part()
    {
        AtomicFile.WriteText(P("day/take.txt"), "old");
        Assert.Throws<IOException>(() => AtomicFile.Write(P("day/take.txt"), s =>
            {
                s.Write("half"u8);
                throw new IOException("the cable is out");
            }));
        Assert.Equal("old", File.ReadAllText(P("day/take.txt")));
        AtomicFile.WriteText(P("day/take.txt"), "new €");
        Assert.Equal("new €", File.ReadAllText(P("day/take.txt")));
        // Nothing is left beside it.
        Assert.Equal([P("day/take.txt")], Directory.GetFiles(P("day")));
    }

    [Fact]
    public void What_cannot_be_read_says_which_file_and_why()
    {
        void Says(string path, string reason)
        {
            var e = Assert.Throws<InvalidInputException>(() => InputFile.Read(path));
            Assert.Contains(path, e.Message, StringComparison.Ordinal);
            Assert.Contains(reason, e.Message, StringComparison.Ordinal);
        }

        Says(P("none.bvh"), "there is no such file");
        Says(P("no/where.bvh"), "there is no such file");
        Says(_folder, "this is a folder, not a file");
        File.WriteAllBytes(P("some.bvh"), [1, 2, 3]);
        Assert.Equal([1, 2, 3], InputFile.Read(P("some.bvh")));
        Assert.Equal(_folder, InputFile.FolderOf(P("some.bvh")));
    }

    [Theory]
    [InlineData("mm", 0.001)]
    [InlineData(" MM ", 0.001)]
    [InlineData("cm", 0.01)]
    [InlineData("centimetres", 0.01)]
    [InlineData("m", 1)]
    [InlineData("Metre", 1)]
    [InlineData("in", 0.0254)]
    [InlineData("feet", 0.3048)]
    [InlineData("dm", 0.1)]
    public void Units_are_known_by_their_names(string unit, double metres)
    {
        Assert.True(Units.TryMetres(unit, out var got));
        Assert.Equal(metres, got);
    }

    [Theory]
    [InlineData("")]
    [InlineData("furlong")]
    [InlineData("m m")]
    public void A_unit_nobody_knows_is_none(string unit) => Assert.False(Units.TryMetres(unit, out _));

    private static Dictionary<BodyRole, string> Roles(string json) =>
        RoleMapJson.Read(Encoding.UTF8.GetBytes(json), "roles.json", Anthropometry.Body(1.7f));

    [Fact]
    public void A_map_of_roles_is_read_with_case_and_gaps_as_they_come()
    {
        var map = Roles("{\"roles\":{\"head\":\"Neck\",\"Pelvis\":\"Pelvis\",\"Jaw\":null}}");
        Assert.Equal([BodyRole.Pelvis, BodyRole.Head], map.Keys.Order());
        Assert.Equal("Neck", map[BodyRole.Head]);
    }

    [Theory]
    [InlineData("{\"roles\":{\"Wing\":\"Head\"}}", "roles.Wing", "not a body role")]
    [InlineData("{\"roles\":{\"3\":\"Head\"}}", "roles.3", "not a body role")]
    [InlineData("{\"roles\":{\"Head\":3}}", "roles.Head", "a joint name is expected")]
    [InlineData("{\"roles\":{\"Head\":\"Tail\"}}", "roles.Head", "no joint 'Tail'")]
    [InlineData("{\"roles\":{\"Head\":\"Neck\",\"Neck\":\"Neck\"}}", "roles.Neck", "plays two roles")]
    [InlineData("{\"roles\":[]}", "roles", "")]
    [InlineData("{}", "roles", "")]
    [InlineData("{\"roles\":", "", "")]
    public void A_map_that_is_wrong_says_where_and_why(string json, string place, string reason)
    {
        var message = Assert.Throws<InvalidInputException>(() => Roles(json)).Message;
        Assert.Contains("roles.json", message, StringComparison.Ordinal);
        Assert.Contains(place, message, StringComparison.Ordinal);
        Assert.Contains(reason, message, StringComparison.Ordinal);
    }
}
