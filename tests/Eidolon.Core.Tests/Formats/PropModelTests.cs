using System.Numerics;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Models of props are laid on their markers; meshes of a character can be left out.</summary>
public sealed class PropModelTests
{
    private static readonly Vector3[] Markers = [new(-.2f, 1, 0), new(.4f, 1, 0), new(0, 1.3f, .1f), new(0, 1.1f, -.1f)];

    private static (Vector3 Low, Vector3 High) Box(byte[] glb)
    {
        var places = GltfBareModel.Open(glb, "prop.glb").Mesh.Positions;
        return (places.Aggregate(Vector3.Min), places.Aggregate(Vector3.Max));
    }

    private static void Close(Vector3 a, Vector3 b) => Assert.True(Vector3.Distance(a, b) < 1e-4f, $"{a} {b}");

    [Fact]
    public void A_model_stands_on_the_pivot_in_its_unit_or_over_the_markers_as_long_as_they_reach()
    {
        var crate = HarbourPropModels.Build("Crate")!;
        var (low, high) = Box(crate);
        var (own, size) = GltfPropModel.Fit(crate, "crate.glb", Markers, new PropModelFit(1, false));
        Close(size, high - low);
        Close(Box(own).Low, low);
        var (inches, small) = GltfPropModel.Fit(crate, "crate.glb", Markers, new PropModelFit(.0254f, false));
        Close(small, (high - low) * .0254f);
        Close(Box(inches).High, high * .0254f);
        var (over, _) = GltfPropModel.Fit(crate, "crate.glb", Markers, new PropModelFit(null, true));
        var (a, b) = Box(over);
        // As long as the markers reach, 0.6 m to the left; in their middle.
        Assert.Equal(.6f, Math.Max((b - a).X, Math.Max((b - a).Y, (b - a).Z)), 1e-4f);
        Close((a + b) / 2, new Vector3(.1f, 1.15f, 0));
    }

    [Fact]
    public void A_model_keeps_its_place_in_the_room_when_the_pivot_moves()
    {
        var crate = HarbourPropModels.Build("Crate")!;
        var turn = Quaternion.CreateFromAxisAngle(Vector3.UnitY, MathF.PI / 2);
        var move = new Vector3(.1f, .2f, .3f);
        var by = Matrix4x4.CreateTranslation(-move) * Matrix4x4.CreateFromQuaternion(Quaternion.Conjugate(turn));
        var (low, high) = Box(GltfPropModel.Moved(crate, "crate.glb", by));
        // A frame at the new pivot puts what it holds back to where it was.
        var (was, then) = Box(crate);
        Vector3[] back = [Vector3.Transform(low, turn) + move, Vector3.Transform(high, turn) + move];
        Close(Vector3.Min(back[0], back[1]), was);
        Close(Vector3.Max(back[0], back[1]), then);
    }

    [Fact]
    public void What_is_no_prop_is_refused_with_the_reason()
    {
        var crate = HarbourPropModels.Build("Crate")!;
        foreach (
            var (bytes, unit, words) in new (byte[], float?, string)[]
            {
                (HarbourCharacters.Build("Stevedore"), 1, "has a rig"),
                (crate, 1000, "m long"),
                (crate[..100], 1, "prop.glb"),
                ([1, 2, 3], 1, "prop.glb"),
            }
        )
        {
            var e = Assert.Throws<InvalidInputException>(() =>
                GltfPropModel.Fit(bytes, "prop.glb", Markers, new PropModelFit(unit, false))
            );
            Assert.Contains(words, e.Message, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void A_mesh_that_is_left_out_is_gone_from_the_file_and_counts_no_more()
    {
        var file = GltfCharacter.Open(HarbourCharacters.Build("Lamplighter"), "lamplighter.glb");
        Assert.True(file.Meshes.Count > 1, string.Join(", ", file.Meshes));
        var whole = file.Prepare(CharacterDraft.Empty);
        foreach (var name in file.Meshes)
        {
            var draft = CharacterDraft.Empty.With(new MeshStep(name, false));
            Assert.Equal(draft.Steps, CharacterDraftJson.Read(CharacterDraftJson.Write(draft)).Steps);
            var made = file.Prepare(draft);
            Assert.Contains("1 mesh left out", made.Words, StringComparison.Ordinal);
            var written = GltfCharacter.Open(file.Write(made), "lamplighter.glb");
            Assert.Equal(file.Meshes.Where(m => m != name), written.Meshes);
            Assert.Equal(file.Skeleton.Count, written.Skeleton.Count);
            Assert.True(written.Skin.Places.Length < file.Skin.Places.Length);
            Assert.Equal(made.Top, written.Prepare(CharacterDraft.Empty).Top, 4);
            // Taken in again it is the very file.
            var again = draft.With(new MeshStep(name, true));
            Assert.Empty(again.LeftOut);
            Assert.Equal(file.Write(whole), file.Write(file.Prepare(again)));
        }

        var none = CharacterDraft.Empty.With([.. file.Meshes.Select(m => new MeshStep(m, false))]);
        Assert.Contains("at least must stay", Assert.Throws<RefusedException>(() => file.Prepare(none)).Message, StringComparison.Ordinal);
        var unknown = CharacterDraft.Empty.With(new MeshStep("Wings", false));
        Assert.Contains("no mesh 'Wings'", Assert.Throws<RefusedException>(() => file.Prepare(unknown)).Message, StringComparison.Ordinal);
        // Roles do not depend on what is seen.
        Assert.Equal(
            whole.Sheet.Roles[BodyRole.HandL],
            file.Prepare(CharacterDraft.Empty.With(new MeshStep(file.Meshes[0], false))).Sheet.Roles[BodyRole.HandL]
        );
    }
}
