using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Faces;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;
using Xunit;

namespace Eidolon.Core.Tests.Characters;

/// <summary>Figures keep their shape in every pose: measured on their own vertices, posed as a viewer poses them.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public class FigureTests
{
    private static readonly Dictionary<string, (Skeleton Skeleton, SkinnedFigure Figure)> Made = [];

    public static TheoryData<string> Figures => ["1.20", "1.71", "2.05", "hands", .. HarbourCharacters.Names];

    [Theory, MemberData(nameof(Figures))]
    public void Skins_are_bound_whole_and_stand_on_the_floor(string name)
    {
        var (skeleton, figure) = Of(name);
        var vertices = figure.Skins.Sum(s => s.Positions.Length);
        Assert.InRange(vertices, 15_000, 40_000);
        var bones = skeleton.Count + figure.Helpers.Count;
        foreach (var skin in figure.Skins)
        {
            Assert.All(skin.Weights, w => Assert.InRange(w.X + w.Y + w.Z + w.W, 0.999f, 1.001f));
            Assert.All(skin.Joints, j => Assert.True(j.A < bones && j.B < bones && j.C < bones && j.D < bones));
            Assert.All(skin.Normals, n => Assert.InRange(n.Length(), .99f, 1.01f));
            // No edge has more than two sides; open ones lie where another garment covers them.
            var edges = new Dictionary<(int, int), int>();
            for (var i = 0; i < skin.Triangles.Length; i += 3)
            {
                for (var k = 0; k < 3; k++)
                {
                    var (a, b) = (skin.Triangles[i + k], skin.Triangles[i + ((k + 1) % 3)]);
                    edges[(Math.Min(a, b), Math.Max(a, b))] = edges.GetValueOrDefault((Math.Min(a, b), Math.Max(a, b))) + 1;
                }
            }

            Assert.True(edges.Values.Count(n => n > 2) <= edges.Count / 100, $"{skin.Material.Name}: edges with more than two sides");
        }

        Assert.InRange(figure.Skins.Min(s => s.Positions.Min(p => p.Y)), -0.005f, 0.01f);
    }

    [Theory, MemberData(nameof(Figures))]
    public void A_bent_knee_and_elbow_keep_their_thickness(string name)
    {
        var (skeleton, figure) = Of(name);
        foreach (var side in "LR")
        {
            Assert.InRange(Thinnest(skeleton, figure, FigureBones.Role("Shin", side), Vector3.UnitX, 120), .85f, 2);
            // A forearm bends ahead in the T-pose: about the upright axis.
            Assert.InRange(
                Thinnest(skeleton, figure, FigureBones.Role("Forearm", side), side == 'L' ? -Vector3.UnitY : Vector3.UnitY, 140),
                .85f,
                2
            );
        }
    }

    [Theory, MemberData(nameof(Figures))]
    public void An_arm_raised_overhead_does_not_tear_the_shoulder(string name)
    {
        var (skeleton, figure) = Of(name);
        foreach (var side in "LR")
        {
            // Of a raised arm's way a third is the shoulder blade's.
            Quaternion Up(float degrees) =>
                Quaternion.CreateFromAxisAngle(Vector3.UnitZ, (side == 'L' ? 1 : -1) * degrees * MathF.PI / 180);
            var upper = skeleton.IndexOf(FigureBones.Role("UpperArm", side));
            var clavicle = skeleton.IndexOf(FigureBones.Role("Clavicle", side));
            var posed = Posed(skeleton, figure, new() { [upper] = Up(60), [clavicle] = Up(25) });
            var stretched = new List<float>();
            for (var s = 0; s < figure.Skins.Count; s++)
            {
                var skin = figure.Skins[s];
                for (var t = 0; t < skin.Triangles.Length; t++)
                {
                    var (a, b) = (skin.Triangles[t], skin.Triangles[t % 3 == 2 ? t - 2 : t + 1]);
                    var rest = (skin.Positions[a] - skin.Positions[b]).Length();
                    var near = Vector3.Distance(skin.Positions[a], skeleton.RestPositions[upper]) < .12f * Size(skeleton);
                    if (near && rest > .004f)
                    {
                        stretched.Add((posed[s][a] - posed[s][b]).Length() / rest);
                    }
                }
            }

            stretched.Sort();
            // The seams of a barrel-chested figure's armpits give most.
            Assert.InRange(stretched[^1], 1, 6.5f);
            Assert.InRange(stretched[(int)(stretched.Count * .95)], 1, 3.2f);
            var axis = Vector3.UnitZ * (side == 'L' ? 1 : -1);
            Assert.InRange(Thinnest(skeleton, figure, FigureBones.Role("UpperArm", side), axis, 60), .85f, 2);
        }
    }

    [Theory, MemberData(nameof(Figures))]
    public void No_vertex_follows_the_wrong_limb(string name)
    {
        var (skeleton, figure) = Of(name);
        for (var j = 0; j < skeleton.Count; j++)
        {
            if (skeleton[j].Role is not { } role || BodyRoles.Side(role) == 'C')
            {
                continue;
            }

            var turned = Posed(skeleton, figure, new() { [j] = Quaternion.CreateFromAxisAngle(Vector3.Normalize(new(1, 1, 1)), .5f) });
            var below = Enumerable.Range(0, skeleton.Count).Where(k => Under(skeleton, k, j)).ToArray();
            var leg = BodyRoles.Stem(role) is "Thigh" or "Shin";
            for (var s = 0; s < figure.Skins.Count; s++)
            {
                // Cloth that hangs from the waist lies on both legs.
                if (leg && figure.Skins[s].Material.Name is "coat" or "lining" or "hide_apron")
                {
                    continue;
                }

                for (var v = 0; v < turned[s].Length; v++)
                {
                    var rest = figure.Skins[s].Positions[v];
                    if ((turned[s][v] - rest).Length() < .003f)
                    {
                        continue;
                    }

                    var near = below.Min(k => ToBone(skeleton, k, rest));
                    Assert.True(
                        near < .19f * Size(skeleton),
                        $"{figure.Skins[s].Material.Name} at {rest} follows {role}, {near:0.00} m away"
                    );
                }
            }
        }
    }

    [Theory, InlineData("hands"), InlineData("Stevedore"), InlineData("Lamplighter")]
    public void A_fist_closes_without_fingers_through_the_palm(string name)
    {
        var (skeleton, figure) = Of(name);
        foreach (var side in "LR")
        {
            var turns = new Dictionary<int, Quaternion>();
            foreach (var finger in new[] { "Index", "Middle", "Ring", "Little" })
            {
                foreach (var (n, degrees) in new[] { (1, 80f), (2, 95f), (3, 55f) })
                {
                    turns[skeleton.IndexOf(FigureBones.Role(finger, side, n))] = Quaternion.CreateFromAxisAngle(
                        Vector3.UnitZ,
                        (side == 'L' ? -1 : 1) * degrees * MathF.PI / 180
                    );
                }
            }

            var rest = figure.Skins;
            var posed = Posed(skeleton, figure, turns);
            var hand = skeleton.RestPositions[skeleton.IndexOf(FigureBones.Role("Hand", side))];
            var knuckle = skeleton.RestPositions[skeleton.IndexOf(FigureBones.Role("Middle", side, 1))];
            int[] last = [.. new[] { "Index", "Middle", "Ring", "Little" }.Select(f => skeleton.IndexOf(FigureBones.Role(f, side, 3)))];
            var deepest = 0f;
            var seen = 0;
            for (var s = 0; s < rest.Count; s++)
            {
                for (var v = 0; v < posed[s].Length; v++)
                {
                    if (!last.Contains(rest[s].Joints[v].A) || rest[s].Weights[v].X < .95f)
                    {
                        continue;
                    }

                    seen++;
                    // Between wrist and knuckles the palm's skin is this far under the middle of the hand.
                    var along = Math.Clamp(
                        Vector3.Dot(posed[s][v] - hand, Vector3.Normalize(knuckle - hand)) / (knuckle - hand).Length(),
                        0,
                        1
                    );
                    var middle = Vector3.Lerp(hand, knuckle, along);
                    deepest = MathF.Max(deepest, posed[s][v].Y - middle.Y);
                }
            }

            Assert.True(seen > 50);
            // Nothing of a fingertip comes out at the back of the hand, or even to its middle.
            Assert.InRange(deepest, -1, .002f);
        }
    }

    [Theory, InlineData("Stevedore"), InlineData("Lamplighter")]
    public void A_character_is_small_and_names_its_materials(string name)
    {
        var glb = HarbourCharacters.Build(name);
        Assert.InRange(glb.Length, 200_000, 3_000_000);
        var model = GltfReader.Open(glb, name);
        Assert.InRange(model.LogicalMaterials.Count, 6, 14);
        Assert.Equal(model.LogicalMaterials.Count, model.LogicalMaterials.Select(m => m.Name).Distinct().Count());
        Assert.All(model.LogicalMeshes.SelectMany(m => m.Primitives), p => Assert.Null(p.GetVertexAccessor("COLOR_0")));
    }

    [Fact]
    public void A_few_strokes_tell_who_a_character_is()
    {
        FigureSketch Of(string name)
        {
            var binding = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name);
            return FigureSketch.Of(binding, RoleFinder.Assign(binding.Skeleton, null, name));
        }

        var (broad, slight) = (Of("Stevedore"), Of("Lamplighter"));
        // The tall hat, the coat that hangs over the legs, bare forearms against sleeves.
        Assert.Equal("#3c3044", slight.Hat.Colour);
        Assert.Equal("#5f4a66", slight.Strokes[BodyRole.ThighL].Colour);
        Assert.Equal("#b58a70", broad.Strokes[BodyRole.ForearmR].Colour);
        Assert.InRange(slight.Crown, .38f, .46f);
        Assert.InRange(broad.Crown, .24f, .34f);
        Assert.True(broad.Strokes[BodyRole.Chest].Radius > slight.Strokes[BodyRole.Chest].Radius * 1.4f);
    }

    [Theory, InlineData("Stevedore"), InlineData("Lamplighter"), InlineData("Harbour Master")]
    public void A_face_has_all_shapes_and_each_moves_its_own_side(string name)
    {
        var (_, figure) = name == "Harbour Master" ? HarbourCharacters.Figure(name) : Of(name);
        var faces = figure.Skins.Where(s => s.Shapes.Count > 0).ToArray();
        Assert.All(faces, f => Assert.Equal(FaceUnits.Names, f.Shapes.Keys));
        // The file of the Harbour Master looks the other way, in inches.
        var (unit, sign) = name == "Harbour Master" ? (39.37f, -1f) : (1f, 1f);
        float Most(string shape, Func<Vector3, bool> where) =>
            faces.Max(f => f.Shapes[shape].Where((_, v) => where(f.Positions[v])).Select(m => m.Length()).DefaultIfEmpty(0).Max()) / unit;
        foreach (var shape in FaceUnits.Names)
        {
            Assert.True(Most(shape, _ => true) is > .0008f and < .04f, $"{shape} moves {Most(shape, _ => true) * 1000:0.0} mm");
        }

        foreach (var number in FaceUnits.Sided)
        {
            var left = Most($"AU{number:00}L", p => p.X * sign > .012f * unit);
            Assert.True(left > 5 * Most($"AU{number:00}L", p => p.X * sign < -.012f * unit), $"AU{number:00}L moves the right side");
        }

        // The jaw goes down and takes the lower lip along, not the upper one.
        var mouth = faces.Where(f => f.Material.Name == "ink").SelectMany(f => f.Positions.Zip(f.Shapes[FaceUnits.Jaw])).ToArray();
        Assert.True(mouth.Min(m => m.Second.Y) / unit < -.012f);
        Assert.Contains(mouth, m => MathF.Abs(m.Second.Y) / unit < .0005f);
    }

    [Fact]
    public void Bones_of_the_skin_are_no_joints_and_are_written_along()
    {
        var glb = HarbourCharacters.Build("Stevedore");
        var binding = GltfReader.GltfBindingOf(GltfReader.Open(glb, "a.glb"), "a.glb");
        Assert.DoesNotContain(binding.Skeleton.Joints, j => j.Name.Contains("bend", StringComparison.Ordinal));
        var motion = Motion.AtRest(binding.Skeleton, 30, 2);
        var shin = binding.Skeleton.IndexOf("dock_lower_leg_l");
        var bent = Quaternion.CreateFromAxisAngle(Vector3.UnitX, 1.2f);
        motion.Rotations[binding.Skeleton.Count + shin] = binding.Skeleton[shin].RestRotation * bent;
        using var written = new MemoryStream();
        GltfWriter.WriteCharacter(written, glb, "a.glb", motion);
        var model = GltfReader.Open(written.ToArray(), "b.glb");
        var helper = model.LogicalNodes.Single(n => n.Name == "dock_lower_leg_l_bend2");
        var keys = model.LogicalAnimations[0].FindRotationChannel(helper)!.GetRotationSampler().GetLinearKeys().ToArray();
        var rest = binding.Skeleton[shin].RestRotation;
        Assert.InRange(Rotations.Angle(keys[0].Value, rest), 0, .001);
        Assert.InRange(Rotations.Angle(keys[^1].Value, rest), .799, .801);
    }

    /// <summary>Least distance of a ring of skin from a joint after a bend, against before.</summary>
    private static float Thinnest(Skeleton skeleton, SkinnedFigure figure, BodyRole role, Vector3 axis, float degrees)
    {
        var j = skeleton.IndexOf(role);
        var at = skeleton.RestPositions[j];
        var next = skeleton.RestPositions[skeleton.Children(j).First()];
        var along = Vector3.Normalize(next - at);
        var posed = Posed(skeleton, figure, new() { [j] = Quaternion.CreateFromAxisAngle(axis, degrees * MathF.PI / 180) });
        var least = 2f;
        var seen = 0;
        for (var s = 0; s < figure.Skins.Count; s++)
        {
            if (figure.Skins[s].Material.Name is "coat" or "lining" or "hide_apron" && role is BodyRole.ShinL or BodyRole.ShinR)
            {
                continue;
            }

            for (var v = 0; v < posed[s].Length; v++)
            {
                var p = figure.Skins[s].Positions[v] - at;
                var out_ = p - (along * Vector3.Dot(p, along));
                if (MathF.Abs(Vector3.Dot(p, along)) > .01f || out_.Length() > .14f)
                {
                    continue;
                }

                seen++;
                least = MathF.Min(least, (posed[s][v] - at).Length() / p.Length());
            }
        }

        Assert.True(seen > 12, $"{role}: {seen} vertices");
        return least;
    }

    private static (Skeleton, SkinnedFigure) Of(string name)
    {
        lock (Made)
        {
            if (!Made.TryGetValue(name, out var made))
            {
                Made[name] = made = name switch
                {
                    "Stevedore" or "Lamplighter" => HarbourCharacters.Figure(name),
                    "hands" => Performer(
                        HandSkeleton.With(Anthropometry.Body(1.8f), HandShape.Average('L', .19f), HandShape.Average('R', .19f))
                    ),
                    _ => Performer(Anthropometry.Body(float.Parse(name, System.Globalization.CultureInfo.InvariantCulture))),
                };
            }

            return made;
        }
    }

    private static (Skeleton, SkinnedFigure) Performer(Skeleton s) => (s, PerformerFigure.Of(s));

    private static Vector3[][] Posed(Skeleton s, SkinnedFigure figure, Dictionary<int, Quaternion> turns) =>
        SkinPose.Of(s, figure, turns).Positions;

    private static bool Under(Skeleton s, int joint, int ancestor)
    {
        for (var k = joint; k >= 0; k = s.Parents[k])
        {
            if (k == ancestor)
            {
                return true;
            }
        }

        return false;
    }

    private static float ToBone(Skeleton s, int j, Vector3 p)
    {
        var a = s.RestPositions[j];
        var ends = s.Children(j).Select(c => s.RestPositions[c]).ToList();
        if (ends.Count == 0)
        {
            ends.Add(a + Vector3.Transform(s[j].EndSite ?? s[j].Offset * .8f, s.RestRotations[j]));
        }

        return ends.Min(b =>
        {
            var along = b - a;
            var t = along.LengthSquared() < 1e-9f ? 0 : Math.Clamp(Vector3.Dot(p - a, along) / along.LengthSquared(), 0, 1);
            return (p - (a + (along * t))).Length();
        });
    }

    private static float Size(Skeleton s) => s.RestPositions.Max(p => p.Y) / 1.6f;
}
