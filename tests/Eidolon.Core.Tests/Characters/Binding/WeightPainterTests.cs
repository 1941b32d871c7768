using System.Numerics;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Characters.Binding;

/// <summary>Strokes over weights: what they do to the skin under them, and nothing else.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class WeightPainterTests
{
    private static readonly byte[] Glb = HarbourCharacters.Build("Stevedore");
    private static readonly GltfSkinSurface Skin = GltfSkinSurface.Open(Glb, "stevedore.glb");

    private static float Of(SkinWeights w, int vertex, int bone)
    {
        var (j, v) = (w.Joints[vertex], w.Weights[vertex]);
        return (j.A == bone ? v.X : 0) + (j.B == bone ? v.Y : 0) + (j.C == bone ? v.Z : 0) + (j.D == bone ? v.W : 0);
    }

    /// <summary>A bone of the middle of the skin, and a vertex that follows it most.</summary>
    private static (int Bone, int Vertex) Followed(string name)
    {
        var bone = Skin.Surface.Bones.ToList().IndexOf(name);
        return (bone, Enumerable.Range(0, Skin.Surface.Places.Length).MaxBy(v => Of(Skin.Weights, v, bone)));
    }

    private static string Joint(BodyRole role)
    {
        var character = GltfCharacter.Open(Glb, "stevedore.glb");
        return character.Prepare(CharacterDraft.Empty).Sheet.Roles[role];
    }

    private static void AllWhole(SkinWeights w) => Assert.All(w.Weights, v =>
        {
            Assert.Equal(1, v.X + v.Y + v.Z + v.W, 1e-5f);
            Assert.True(v.X >= v.Y && v.Y >= v.Z && v.Z >= v.W && v.W >= 0);
        });

    [Theory]
    [InlineData(WeightBrush.Add, .05f, .4f)]
    [InlineData(WeightBrush.Remove, .08f, 1f)]
    [InlineData(WeightBrush.Smooth, .12f, .7f)]
    public void A_stroke_changes_what_is_under_the_brush_and_leaves_weights_whole(WeightBrush brush, float radius, float strength)
    {
        var (_, vertex) = Followed(Joint(BodyRole.ForearmL));
        var bone = Skin.Surface.Bones.ToList().IndexOf(Joint(BodyRole.ForearmL));
        var (after, changed) = WeightPainter.Stroke(Skin.Surface, Skin.Weights, brush, bone, [vertex], radius, strength);
        AllWhole(after);
        Assert.NotEmpty(changed);
        var seen = changed.ToHashSet();
        for (var v = 0; v < after.Weights.Length; v++)
        {
            var far = Vector3.Distance(Skin.Surface.Places[v], Skin.Surface.Places[vertex]) > radius;
            Assert.False(far && seen.Contains(v), $"vertex {v} is outside the brush");
            if (!seen.Contains(v))
            {
                Assert.Equal((Skin.Weights.Joints[v], Skin.Weights.Weights[v]), (after.Joints[v], after.Weights[v]));
            }
            else if (brush != WeightBrush.Smooth)
            {
                var more = Of(after, v, bone) - Of(Skin.Weights, v, bone);
                Assert.True(brush == WeightBrush.Add ? more >= -1e-5 : more <= 1e-5, $"vertex {v}: {more}");
            }
        }
    }

    [Fact]
    public void Added_is_as_much_as_the_brush_is_strong_and_removed_goes_to_what_else_is_followed()
    {
        var (bone, vertex) = Followed(Joint(BodyRole.ShinR));
        var thigh = Skin.Surface.Bones.ToList().IndexOf(Joint(BodyRole.ThighR));
        var was = Of(Skin.Weights, vertex, thigh);
        var (added, _) = WeightPainter.Stroke(Skin.Surface, Skin.Weights, WeightBrush.Add, thigh, [vertex], .03f, .4f);
        Assert.Equal(was + ((1 - was) * .4f), Of(added, vertex, thigh), 5e-3f);
        var (removed, _) = WeightPainter.Stroke(Skin.Surface, added, WeightBrush.Remove, bone, [vertex], .03f, 1);
        Assert.Equal(0, Of(removed, vertex, bone), 1e-3f);
        // A vertex that follows one bone alone falls to the bone above it.
        var head = Skin.Surface.Bones.ToList().IndexOf(Joint(BodyRole.Head));
        var crown = Enumerable.Range(0, Skin.Surface.Places.Length).First(v => Of(Skin.Weights, v, head) > .9999f);
        var (gone, _) = WeightPainter.Stroke(Skin.Surface, Skin.Weights, WeightBrush.Remove, head, [crown], .02f, 1);
        Assert.Equal(1, Of(gone, crown, Skin.Surface.Parents[head]), 1e-3f);
    }

    [Fact]
    public void The_brush_goes_along_the_skin_and_not_across_a_gap()
    {
        // Two sheets a centimetre apart: painted on one, the other stays.
        Vector3[] places =
        [
            .. Enumerable
                .Range(0, 2)
                .SelectMany(s => Enumerable.Range(0, 25).Select(i => new Vector3(i % 5 * .02f, i / 5 * .02f, s * .01f))),
        ];
        int[] triangles =
        [
            .. Enumerable
                .Range(0, 2)
                .SelectMany(s =>
                    Enumerable
                        .Range(0, 16)
                        .Select(q => (s * 25) + (q / 4 * 5) + (q % 4))
                        .SelectMany(a => new[] { a, a + 1, a + 5, a + 1, a + 6, a + 5 })
                ),
        ];
        var surface = new SkinSurface(places, triangles, ["one", "two"], [-1, 0]);
        var weights = new SkinWeights(
            [.. places.Select(_ => ((ushort)0, (ushort)0, (ushort)0, (ushort)0))],
            [.. places.Select(_ => Vector4.UnitX)],
            []
        );
        var (after, changed) = WeightPainter.Stroke(surface, weights, WeightBrush.Add, 1, [12], .05f, 1);
        Assert.Contains(12, changed);
        Assert.All(changed, v => Assert.InRange(v, 0, 24));
        Assert.Equal(1, Of(after, 12, 1), 1e-5f);
        // Nearer to the brush is more.
        Assert.True(Of(after, 13, 1) > Of(after, 14, 1) && Of(after, 14, 1) > 0);
        var (even, _) = WeightPainter.Stroke(surface, after, WeightBrush.Smooth, 0, [12], .05f, 1);
        Assert.InRange(Of(even, 12, 1), .3f, .95f);
        Assert.Throws<RefusedException>(() => WeightPainter.Stroke(surface, weights, WeightBrush.Add, 2, [12], .05f, 1));
        Assert.Throws<RefusedException>(() => WeightPainter.Stroke(surface, weights, WeightBrush.Add, 1, [50], .05f, 1));
    }

    [Fact]
    public void A_draft_with_strokes_is_written_into_the_file_and_taken_back_with_them()
    {
        var character = GltfCharacter.Open(Glb, "stevedore.glb");
        var (_, vertex) = Followed(Joint(BodyRole.ForearmL));
        var chest = Joint(BodyRole.Chest);
        var step = new WeightStep(WeightBrush.Add, chest, [vertex], .06f, .5f, null, []);
        var draft = CharacterDraft.Empty.With(step, step);
        Assert.Equal(draft.Steps, CharacterDraftJson.Read(CharacterDraftJson.Write(draft)).Steps);
        var bone = Skin.Surface.Bones.ToList().IndexOf(chest);
        Assert.Equal(.75f, Of(character.Weights(draft), vertex, bone), .01f);
        Assert.Equal(.5f, Of(character.Weights(draft.Back()), vertex, bone), .01f);
        Assert.Equal(Skin.Weights.Weights, character.Weights(CharacterDraft.Empty).Weights);
        var written = GltfSkinSurface.Open(character.Write(character.Prepare(draft)), "painted.glb");
        Assert.Equal(.75f, Of(written.Weights, vertex, bone), .01f);
        // At rest it looks as it did.
        Assert.InRange(written.Surface.Places.Zip(Skin.Surface.Places, Vector3.Distance).Max(), 0, 1e-4f);
        Assert.Equal("weights painted", character.Prepare(draft).Words);
    }

    [Fact]
    public void A_bound_mesh_is_bound_anew_where_its_joints_are_put()
    {
        var (_, figure) = HarbourCharacters.Figure("Lamplighter");
        var bare = GltfSkinWriter.WriteBare(figure, "bare", Matrix4x4.Identity);
        var (glb, placed, before) = GltfBareModel.Open(bare, "bare.glb").Bind();
        Assert.Null(GltfRebinder.Places(Glb, "stevedore.glb"));
        var places = GltfRebinder.Places(glb, "bound.glb")!;
        Assert.All(placed.Places, p => Assert.InRange(Vector3.Distance(p.Value, places[p.Key]), 0, 1e-4f));
        var lower = places[BodyRole.ShinL] - new Vector3(0, .05f, 0);
        var again = GltfRebinder.Bind(glb, "bound.glb", new Dictionary<BodyRole, Vector3> { [BodyRole.ShinL] = lower });
        var now = GltfRebinder.Places(again, "again.glb")!;
        Assert.InRange(Vector3.Distance(lower, now[BodyRole.ShinL]), 0, 1e-4f);
        Assert.All(now.Where(p => p.Key != BodyRole.ShinL), p => Assert.InRange(Vector3.Distance(p.Value, places[p.Key]), 0, 1e-4f));
        var (old, skin) = (GltfSkinSurface.Open(glb, "bound.glb"), GltfSkinSurface.Open(again, "again.glb"));
        Assert.InRange(skin.Surface.Places.Zip(old.Surface.Places, Vector3.Distance).Max(), 0, 1e-4f);
        AllWhole(skin.Weights);
        // The shin begins lower: skin between the old knee and the new one follows the thigh more.
        var (thigh, right) = (skin.Surface.Bones.ToList().IndexOf("ThighL"), skin.Surface.Bones.ToList().IndexOf("ThighR"));
        var between = Enumerable
            .Range(0, skin.Surface.Places.Length)
            .Where(v => skin.Surface.Places[v] is var p && Math.Abs(p.Y - lower.Y - .025f) < .02f && Math.Abs(p.X - lower.X) < .06f)
            .ToList();
        Assert.NotEmpty(between);
        var (more, less) = (between.Average(v => Of(skin.Weights, v, thigh)), between.Average(v => Of(old.Weights, v, thigh)));
        Assert.True(more > less + .08, $"{more} after, {less} before, {between.Count} vertices, right {lower}");
        Assert.Equal(
            Enumerable.Range(0, before.Weights.Length).Average(v => Of(old.Weights, v, right)),
            Enumerable.Range(0, before.Weights.Length).Average(v => Of(skin.Weights, v, right)),
            .01
        );
        var outside = new Dictionary<BodyRole, Vector3> { [BodyRole.HandR] = new(0, 9, 0) };
        Assert.Contains(
            "HandR",
            Assert.Throws<RefusedException>(() => GltfRebinder.Bind(glb, "bound.glb", outside)).Message,
            StringComparison.Ordinal
        );
        Assert.Throws<RefusedException>(() => GltfRebinder.Bind(Glb, "stevedore.glb", new Dictionary<BodyRole, Vector3>()));
    }
}
