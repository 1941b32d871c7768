using System.Numerics;
using System.Text;
using Eidolon.Core;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>The library: what is a new version and what is none, drafts that become one, and what is refused with nothing kept.</summary>
public sealed class LibraryTests : Studio
{
    private static readonly byte[] Stevedore = HarbourCharacters.Build("Stevedore");
    private static readonly byte[] Lamplighter = HarbourCharacters.Build("Lamplighter");

    private SubjectLibrary _library = null!;

    public override async Task InitializeAsync()
    {
        await base.InitializeAsync();
        _library = new SubjectLibrary(this, new ResourceMemory(), Blobs, TimeProvider.System);
    }

    private async Task<int> Add(SubjectKind kind, string name) => (await _library.Add(1, kind, name)).Id;

    private async Task<int> Dressed(string name, byte[] glb)
    {
        var id = await Add(SubjectKind.Character, name);
        await _library.Dress(id, glb, name + ".glb");
        return id;
    }

    private async Task<(Subject Subject, List<SubjectVersion> Versions)> Now(int id)
    {
        await using var db = CreateDbContext();
        return (
            await db.Subjects.AsNoTracking().SingleAsync(s => s.Id == id),
            await db.SubjectVersions.AsNoTracking().Where(v => v.SubjectId == id).OrderBy(v => v.Number).ToListAsync()
        );
    }

    private static async Task<string> Refused(Func<Task> wish) => (await Assert.ThrowsAsync<RefusedException>(wish)).Message;

    [Theory]
    [InlineData(null)]
    [InlineData("  ")]
    [InlineData("a:b")]
    [InlineData("a,b")]
    [InlineData("a/b")]
    [InlineData("a\nb")]
    [InlineData("forty-one letters are one more than it may")]
    public async Task A_name_that_cannot_be_used_is_refused_in_words(string? name) =>
        Assert.Contains("1 to 40 letters", await Refused(() => _library.Add(1, SubjectKind.Prop, name)), StringComparison.Ordinal);

    [Fact]
    public async Task A_name_is_its_kinds_own_and_what_has_nothing_yet_can_be_forgotten()
    {
        var crate = await Add(SubjectKind.Prop, " Crate ");
        Assert.Contains("prop 'Crate' already", await Refused(() => _library.Add(1, SubjectKind.Prop, "Crate")), StringComparison.Ordinal);
        var other = await Add(SubjectKind.Character, "Crate");
        await Add(SubjectKind.Prop, "forty letters are just as many as it may");
        await _library.Shape(crate, HarbourProps.Crate, "", "made");
        await _library.Forget(crate);
        await _library.Forget(other);
        await using var db = CreateDbContext();
        Assert.True(await db.Subjects.AnyAsync(s => s.Id == crate) && !await db.Subjects.AnyAsync(s => s.Id == other));
        Assert.Contains("gone", await Refused(() => _library.Shape(other, HarbourProps.Crate, "", "made")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_pivot_that_moves_leaves_markers_and_model_where_they_are()
    {
        var id = await Add(SubjectKind.Prop, "Crate");
        await _library.Shape(id, HarbourProps.Crate, "tied", "made");
        await _library.Model(id, HarbourPropModels.Build("Crate")!, "crate.glb", new PropModelFit(1, false));
        var (move, turn) = (new Vector3(.1f, .2f, -.3f), Quaternion.CreateFromAxisAngle(Vector3.UnitY, .7f));
        var before = Box((await Now(id)).Versions[^1]);
        await _library.Pivot(id, move, turn, "tied");
        var body = Assert.Single(_library.Props(), p => p.Subject.Id == id).Body;
        for (var m = 0; m < body.Markers.Count; m++)
        {
            Near(HarbourProps.Crate.Markers[m], Vector3.Transform(body.Markers[m], turn) + move);
        }

        // Every place of the model in the moved frame is where it was.
        var (_, versions) = await Now(id);
        Assert.Equal([1, 2, 3], versions.Select(v => v.Number));
        Assert.Equal("pivot moved", versions[2].Why);
        Assert.All(versions, v => Assert.Equal("tied", v.Tie));
        var after = Box(versions[2]);
        Assert.Equal(before.Length, after.Length);
        for (var k = 0; k < before.Length; k++)
        {
            Near(before[k], Vector3.Transform(after[k], turn) + move);
        }

        Vector3[] Box(SubjectVersion version)
        {
            using var db = CreateDbContext();
            return [.. GltfBareModel.Open(Blobs.Read(db, version.BlobId!.Value), "c.glb").Mesh.Positions];
        }
    }

    private static void Near(Vector3 a, Vector3 b) => Assert.True(Vector3.Distance(a, b) < 1e-4f, $"{a} and {b}");

    [Fact]
    public async Task What_says_nothing_new_is_no_version_and_a_model_comes_and_goes_without_the_markers()
    {
        var id = await Add(SubjectKind.Prop, "Pole");
        var first = await _library.Shape(id, HarbourProps.LanternPole, "", "made");
        Assert.Equal(first.Id, (await _library.Shape(id, HarbourProps.LanternPole, "", "made again")).Id);
        Assert.Equal(2, (await _library.Shape(id, HarbourProps.LanternPole, "other tie", "tied")).Number);
        var seen = await _library.Model(id, HarbourPropModels.Build("Crate")!, "crate.glb", new PropModelFit(1, false));
        Assert.Contains("seen as crate.glb", seen.Why, StringComparison.Ordinal);
        var bare = await _library.Bare(id);
        Assert.Equal((4, null, "model taken off", "other tie"), (bare.Number, bare.BlobId, bare.Why, bare.Tie));
        // As it was once is a version of its own: the number only counts on.
        Assert.Equal(5, (await _library.Shape(id, HarbourProps.LanternPole, "", "made")).Number);
        var hook = await Add(SubjectKind.Prop, "Hook");
        foreach (
            var wish in new Func<Task>[]
            {
                () => _library.Bare(hook),
                () => _library.Pivot(hook, default, Quaternion.Identity, ""),
                () => _library.Model(hook, HarbourPropModels.Build("Crate")!, "crate.glb", new PropModelFit(1, false)),
                () => _library.Bare(Ines),
            }
        )
        {
            Assert.Contains("no markers", await Refused(wish), StringComparison.Ordinal);
        }

        Assert.DoesNotContain(_library.Props(), p => p.Subject.Id == hook);
    }

    [Fact]
    public async Task A_character_is_found_by_its_own_version_alone()
    {
        var (first, second) = (await Dressed("Stevedore", Stevedore), await Dressed("Lamplighter", Lamplighter));
        await using (var db = CreateDbContext())
        {
            var (subject, version) = SubjectLibrary.Current(db, second);
            Assert.Equal((second, 1, "Lamplighter"), (version!.SubjectId, version.Number, subject!.Name));
            // A newer one that is not the current one counts for nothing.
            db.SubjectVersions.Add(
                new SubjectVersion
                {
                    SubjectId = first,
                    Number = 2,
                    Content = "x",
                }
            );
            await db.SaveChangesAsync();
            Assert.Equal(1, SubjectLibrary.Current(db, first).Version!.Number);
            Assert.Equal((null, null), SubjectLibrary.Current(db, 9999));
        }

        Assert.True(
            _library.Rig(first)!.Count != _library.Rig(second)!.Count || _library.Rig(first)![3].Offset != _library.Rig(second)![3].Offset
        );
        Assert.NotNull(_library.Sketch(second));
        Assert.Null(_library.Rig(Ines));
        Assert.Null(_library.Sketch(Ines));
        Assert.Null(_library.Known(Ines));
        Assert.Null(_library.Prepare(Ines));
        Assert.Null(_library.Weights(9999));
    }

    [Fact]
    public async Task A_draft_keeps_each_change_takes_it_back_and_becomes_the_next_version_when_it_is_accepted()
    {
        var id = await Dressed("Stevedore", Stevedore);
        var tall = _library.Prepare(id)!.Made.Height;
        await _library.Change(id, new SizeStep(1.1));
        await _library.Change(id, new SizeStep(1.2));
        Assert.Equal(1.1 * 1.2 * tall, _library.Prepare(id)!.Made.Height, 1e-3);
        await _library.Change(id, null);
        // Another process reads the same.
        var again = new SubjectLibrary(this, new ResourceMemory(), Blobs, TimeProvider.System);
        Assert.Equal(1.1 * tall, again.Prepare(id)!.Made.Height, 1e-3);
        Assert.Single(again.Prepare(id)!.Made.Draft.Steps);
        Assert.False(again.Prepare(id)!.Locked);
        var next = await _library.Accept(id);
        Assert.Equal(2, next.Number);
        Assert.StartsWith("prepared: set to", next.Why, StringComparison.Ordinal);
        Assert.Equal(Math.Round(1.1 * tall, 2), next.Height, 1e-9);
        Assert.True(_library.Prepare(id)!.Locked);
        Assert.Contains("unlock it first", await Refused(() => _library.Change(id, new SizeStep(1))), StringComparison.Ordinal);
        await _library.Unlock(id);
        Assert.False(_library.Prepare(id)!.Locked);
        // Nothing was changed: looked at and locked, and no version.
        var same = await _library.Accept(id);
        Assert.Equal((2, 2), (same.Number, (await Now(id)).Versions.Count));
        Assert.True(_library.Prepare(id)!.Locked);
    }

    [Fact]
    public async Task What_cannot_be_made_is_refused_and_not_kept()
    {
        var id = await Dressed("Stevedore", Stevedore);
        await Refused(() => _library.Change(id, new RoleStep(BodyRole.HandL, "no such joint")));
        Assert.Empty(_library.Prepare(id)!.Made.Draft.Steps);
        Assert.Contains("has no file", await Refused(() => _library.Accept(Ines)), StringComparison.Ordinal);
        await Refused(() => _library.Change(9999, null));
        var bad = await Add(SubjectKind.Character, "Nobody");
        await Assert.ThrowsAsync<InvalidInputException>(() => _library.Dress(bad, Encoding.UTF8.GetBytes("glTF no"), "nobody.glb"));
        await Assert.ThrowsAsync<InvalidInputException>(() => _library.Dress(bad, HarbourPropModels.Build("Crate")!, "crate.bvh"));
        Assert.Empty((await Now(bad)).Versions);
    }

    [Fact]
    public async Task A_map_that_a_person_kept_serves_the_next_rig_alike_and_only_of_the_same_production()
    {
        var id = await Dressed("Stevedore", Stevedore);
        Assert.DoesNotContain("roles as", (await Now(id)).Versions[0].Why, StringComparison.Ordinal);
        var found = await Dressed("Second", Stevedore);
        Assert.DoesNotContain("roles as", (await Now(found)).Versions[0].Why, StringComparison.Ordinal);
        await _library.Accept(id);
        var third = await Dressed("Third", Stevedore);
        Assert.EndsWith("roles as Stevedore's", (await Now(third)).Versions[0].Why, StringComparison.Ordinal);
        var abroad = (await _library.Add(2, SubjectKind.Character, "Fourth")).Id;
        await _library.Dress(abroad, Stevedore, "fourth.glb");
        Assert.DoesNotContain("roles as", (await Now(abroad)).Versions[0].Why, StringComparison.Ordinal);
        // Its own map comes before others'.
        await _library.Dress(id, Stevedore, "stevedore-2.glb");
        Assert.DoesNotContain("roles as Second's", (await Now(id)).Versions[^1].Why, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_stroke_changes_what_lies_under_it_on_both_sides_and_is_taken_back()
    {
        var id = await Dressed("Stevedore", Stevedore);
        var now = _library.Prepare(id)!;
        var (skin, before) = _library.Weights(id)!.Value;
        string Of(BodyRole role) => now.Made.Sheet.Roles[role];
        var hand = now.File.Skeleton.RestPositions[now.File.Skeleton.IndexOf(Of(BodyRole.ForearmL))];
        var vertex = Enumerable.Range(0, skin.Surface.Places.Length).MinBy(v => Vector3.Distance(skin.Surface.Places[v], hand));
        var stroke = new SubjectLibrary.Stroke(WeightBrush.Add, Of(BodyRole.HandL), [vertex], .08f, 1, Mirror: false);
        var one = await _library.Paint(id, stroke);
        Assert.Contains(vertex, one.Changed);
        Assert.All(one.Changed, v => Assert.True(Vector3.Distance(skin.Surface.Places[v], skin.Surface.Places[vertex]) < .1f));
        Assert.Single(_library.Prepare(id)!.Made.Draft.Strokes);
        var back = await _library.Unpaint(id);
        Assert.Equal(one.Changed, back.Changed);
        Assert.Equal(before.Weights, back.Weights.Weights);
        Assert.Contains("no stroke", await Refused(() => _library.Unpaint(id)), StringComparison.Ordinal);
        var both = await _library.Paint(id, stroke with { Mirror = true });
        Assert.True(both.Changed.Count > one.Changed.Count * 1.5, $"{both.Changed.Count} for {one.Changed.Count}");
        foreach (
            var odd in new[]
            {
                stroke with
                {
                    Path = [],
                },
                stroke with
                {
                    Path = [skin.Surface.Places.Length],
                },
                stroke with
                {
                    Path = [-1],
                },
                stroke with
                {
                    Radius = 0,
                },
                stroke with
                {
                    Radius = .51f,
                },
                stroke with
                {
                    Strength = 1.01f,
                },
                stroke with
                {
                    Strength = 0,
                },
                stroke with
                {
                    Bone = "no such bone",
                },
                stroke with
                {
                    Brush = (WeightBrush)77,
                },
            }
        )
        {
            Assert.Contains("not on this character's skin", await Refused(() => _library.Paint(id, odd)), StringComparison.Ordinal);
        }

        await Refused(() => _library.Paint(id, stroke with { Path = [vertex, -1] }));
        Assert.Single(_library.Prepare(id)!.Made.Draft.Strokes);
        // The first vertex and the largest brush are as good as others.
        await _library.Paint(id, stroke with { Path = [0], Radius = .5f });
        await _library.Unpaint(id);
        Assert.Contains("no such character", await Refused(() => _library.Paint(9999, stroke)), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_body_by_height_alone_can_be_seen_and_nothing_is_solved_with_it()
    {
        var version = await _library.Guess(Ines, 1.72f, 1.75f);
        Assert.Equal((1, "from height and build"), (version.Number, version.Why));
        Assert.Equal(1.72, version.Height, 1e-6);
        Assert.NotNull(version.BlobId);
        Assert.False(version.Measured);
        Assert.Null(_library.Known(Ines));
        Assert.Equal(1, (await _library.Guess(Ines, 1.72f, 1.75f)).Number);
        Assert.Equal(2, (await _library.Guess(Ines, 1.72f, 1.78f)).Number);
    }

    [Fact]
    public async Task A_file_that_is_gone_or_changed_is_told_by_its_name()
    {
        await using var db = CreateDbContext();
        var blob = await Blobs.Keep(db, [1, 2, 3]);
        var other = await Blobs.Keep(db, [1, 2, 3, 4]);
        Assert.Equal(blob.Id, (await Blobs.Keep(db, [1, 2, 3])).Id);
        Assert.Equal((3, 4), (blob.Length, other.Length));
        Assert.Equal([1, 2, 3], Blobs.Read(db, blob.Id));
        var path = await Blobs.Find(db, blob.Id);
        File.WriteAllBytes(path!, [1, 2]);
        string Told(int id) => Assert.Throws<DamagedDataException>(() => Blobs.Read(db, id)).Message;
        Assert.Contains($"{blob.Hash[..12]} does not match", Told(blob.Id), StringComparison.Ordinal);
        File.Delete(path!);
        Assert.Contains($"{blob.Hash[..12]} is gone from the studio", Told(blob.Id), StringComparison.Ordinal);
        Assert.Contains("file 999 is gone", Told(999), StringComparison.Ordinal);
        Assert.Null(await Blobs.Find(db, blob.Id));
        Assert.Null(await Blobs.Find(db, 999));
        // Kept again it is whole, and nothing half-written is left beside it.
        await Blobs.Keep(db, [1, 2, 3]);
        Assert.Equal([1, 2, 3], Blobs.Read(db, blob.Id));
        Assert.Empty(Directory.GetFiles(Path.Combine(Folder, "blobs"), "*.part"));
    }
}
