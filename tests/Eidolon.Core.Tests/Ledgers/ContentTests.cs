using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Inertial;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Core.Tests.Ledgers;

/// <summary>What makes two values the same one: everything they say, and nothing else.</summary>
public sealed class ContentTests
{
    private static MarkerTake Take(Action<Vector3[]>? change = null, double rate = 120, int first = 0, string last = "C")
    {
        var places = Enumerable.Range(0, 12).Select(i => new Vector3(i, i * 0.5f, -i)).ToArray();
        places[5] = MarkerTake.Hidden;
        change?.Invoke(places);
        return new MarkerTake(["A", "B", last], rate, 4, places) { FirstFrame = first, Warnings = ["said once"] };
    }

    private static UInt128 Of(MarkerTake take, IReadOnlyList<PinnedLabel>? pinned = null, IReadOnlyList<string>? automatic = null) =>
        ContentHash.Of(new MarkerValue(take) { Pinned = pinned ?? [], Automatic = automatic ?? [] });

    [Fact]
    public void Markers_with_the_same_samples_are_the_same_however_they_came_about()
    {
        Assert.Equal(Of(Take()), Of(Take().Copy()));
        Assert.Equal(Of(Take()), Of(Take(rate: 120.0)));
        // What reading had to say is no part of the samples.
        Assert.Equal(Of(Take()), Of(new MarkerTake(["A", "B", "C"], 120, 4, Take().Positions)));
    }

    [Fact]
    public void Whatever_a_take_says_differs_in_its_hash()
    {
        UInt128[] all =
        [
            Of(Take()),
            Of(Take(p => p[11].Z += 1e-6f)),
            Of(Take(p => p[5] = Vector3.Zero)),
            Of(Take(p => p[0] = MarkerTake.Hidden)),
            Of(Take(rate: 119.88)),
            Of(Take(first: 1)),
            Of(Take(last: "D")),
            Of(new MarkerTake(["A", "B\nC"], 120, 6, Take().Positions)),
            Of(Take(), pinned: [new PinnedLabel("A", 0, 2)]),
            Of(Take(), pinned: [new PinnedLabel("A", 0, 3)]),
            Of(Take(), pinned: [new PinnedLabel("B", 0, 2)]),
            Of(Take(), automatic: ["A"]),
            Of(Take(), automatic: ["A", "B"]),
        ];
        Assert.Equal(all.Length, all.Distinct().Count());
    }

    private static Skeleton Bones(Func<Joint, Joint>? change = null) =>
        new(
            new Joint[]
            {
                new("hips", -1, new Vector3(0, 1, 0)) { Role = BodyRole.Pelvis },
                new("head", 0, new Vector3(0, 0.6f, 0)) { Role = BodyRole.Head, EndSite = new Vector3(0, 0.2f, 0) },
            }.Select(j => change is null ? j : change(j))
        );

    private static Motion Moved(Skeleton? s = null, double rate = 60, Action<Motion>? change = null, float smile = 0.5f, int first = 3)
    {
        var motion = new Motion(s ?? Bones(), rate, 2)
        {
            FirstFrame = first,
            Morphs = new Dictionary<string, float[]> { ["smile"] = [0, smile] },
        };
        Array.Fill(motion.Rotations, Quaternion.Identity);
        change?.Invoke(motion);
        return motion;
    }

    private static UInt128 Of(Motion motion, params ContactEdit[] contacts) =>
        ContentHash.Of(new MotionValue(motion) { Contacts = contacts });

    [Fact]
    public void Whatever_a_motion_says_differs_in_its_hash()
    {
        UInt128[] all =
        [
            Of(Moved()),
            Of(Moved(rate: 60.001)),
            Of(Moved(first: 4)),
            Of(Moved(smile: 0.6f)),
            Of(Moved(change: m => m.Rotations[3] = new Quaternion(0, 0, 1, 0))),
            Of(Moved(change: m => m.Translations[2].X = 1e-5f)),
            Of(Moved(Bones(j => j with { Name = j.Name + "1" }))),
            Of(Moved(Bones(j => j.Name == "head" ? j with { Role = null } : j))),
            Of(Moved(Bones(j => j.Name == "head" ? j with { EndSite = null } : j))),
            Of(Moved(Bones(j => j with { Offset = j.Offset * 1.001f }))),
            Of(Moved(Bones(j => j with { RestRotation = new Quaternion(0, 1, 0, 0) }))),
            Of(Moved(), new ContactEdit(ContactPoint.Heel, 'L', 0, 1, true)),
            Of(Moved(), new ContactEdit(ContactPoint.Heel, 'L', 0, 1, false)),
            Of(Moved(), new ContactEdit(ContactPoint.Heel, 'R', 0, 1, true)),
            Of(Moved(), new ContactEdit(ContactPoint.Toe, 'L', 0, 1, true)),
        ];
        Assert.Equal(all.Length, all.Distinct().Count());
        Assert.Equal(all[0], Of(Moved().Copy()));
    }

    [Fact]
    public void Places_of_a_prop_differ_by_where_and_how_it_lies()
    {
        static UInt128 At(Vector3 place, Quaternion turn, double rate = 120) =>
            ContentHash.Of(new PlacesValue(new PropPlaces(rate, [place, place], [turn, turn])));
        UInt128[] all =
        [
            At(default, Quaternion.Identity),
            At(Vector3.UnitX, Quaternion.Identity),
            At(default, new Quaternion(1, 0, 0, 0)),
            At(default, Quaternion.Identity, 100),
        ];
        Assert.Equal(4, all.Distinct().Count());
    }

    [Fact]
    public void A_hash_is_written_and_read_as_32_digits()
    {
        var hash = ContentHash.Of("harbour");
        var text = ContentHash.Text(hash);
        Assert.Equal(32, text.Length);
        Assert.True(ContentHash.TryParse(text, out var again));
        Assert.Equal(hash, again);
        Assert.Equal(hash, ContentHash.Of("harbour"u8));
        Assert.False(ContentHash.TryParse("no digits", out _));
        Assert.False(ContentHash.TryParse(null, out _));
        Assert.Equal("00000000000000000000000000000007", ContentHash.Text(7));
    }

    [Theory]
    [InlineData("{\"b\":1,\"a\":2}", "{\"a\":2,\"b\":1}", true)]
    [InlineData("{\"a\":1}", "{\"a\":1.0}", true)]
    [InlineData("{\"a\":1}", "{\"a\":1e0}", true)]
    [InlineData("{\"a\":0.1}", "{\"a\":0.10}", true)]
    [InlineData("{\"a\":{\"y\":1,\"x\":[1,{\"d\":1,\"c\":2}]}}", "{\"a\":{\"x\":[1.0,{\"c\":2,\"d\":1}],\"y\":1}}", true)]
    [InlineData("{\"a\":1}", "{\"a\":\"1\"}", false)]
    [InlineData("{\"a\":null}", "{}", false)]
    [InlineData("{\"a\":null}", "{\"a\":\"null\"}", false)]
    [InlineData("{\"a\":[1,2]}", "{\"a\":[2,1]}", false)]
    [InlineData("{\"a\":[1,2]}", "{\"a\":[1,[2]]}", false)]
    [InlineData("{\"a\":true}", "{\"a\":false}", false)]
    [InlineData("{\"a\":1,\"b\":2}", "{\"a\":{\"b\":2}}", false)]
    [InlineData("{\"a\":\"x,y\"}", "{\"a\":\"x\",\"y\":\"\"}", false)]
    public void Parameters_that_mean_the_same_are_one_text(string a, string b, bool same) =>
        Assert.Equal(same, CanonicalJson.Write(JsonNode.Parse(a)) == CanonicalJson.Write(JsonNode.Parse(b)));

    [Fact]
    public void Whatever_is_said_of_films_and_suits_differs_in_their_hash()
    {
        static FilmTake Film(double rate = 30, string name = "KneeL", float value = 1) => new(rate, [name], [value, 2, 1, 3, 4, 1]);
        var camera = CameraModel.Nominal("quay side", 1920, 1080, 1500);
        static ContactEdit Edit(int start) => new(ContactPoint.Heel, 'L', start, 9, true);
        var films = new FilmValue([Film()], [camera]);
        UInt128[] all =
        [
            ContentHash.Of(films),
            ContentHash.Of(new FilmValue([Film(rate: 25)], [camera])),
            ContentHash.Of(new FilmValue([Film(name: "KneeR")], [camera])),
            ContentHash.Of(new FilmValue([Film(value: 1.5f)], [camera])),
            ContentHash.Of(new FilmValue([Film()], [camera with { Focal = 1501 }])),
            ContentHash.Of(new FilmValue([Film()], [camera.LookingAt(new(0, 1, 4), default)])),
            ContentHash.Of(new FilmValue([Film(), Film()], [camera, camera])),
            ContentHash.Of(films with { Fixes = [new FilmFix(0, 1, "KneeL", 5, 6)] }),
            ContentHash.Of(films with { Fixes = [new FilmFix(0, 1, "KneeL", 5, 7)] }),
            ContentHash.Of(films with { Contacts = [Edit(3)] }),
            ContentHash.Of(new SuitValue(new SuitTake(100, new float[SuitTake.Stride]))),
            ContentHash.Of(new SuitValue(new SuitTake(60, new float[SuitTake.Stride]))),
            ContentHash.Of(new SuitValue(new SuitTake(100, [.. Enumerable.Repeat(1f, SuitTake.Stride)]))),
            ContentHash.Of(new SuitValue(new SuitTake(100, new float[SuitTake.Stride])) { Contacts = [Edit(4)] }),
        ];
        Assert.Equal(all.Length, all.Distinct().Count());
        Assert.Equal(ContentHash.Of(films), ContentHash.Of(new FilmValue([Film()], [camera])));
    }
}
