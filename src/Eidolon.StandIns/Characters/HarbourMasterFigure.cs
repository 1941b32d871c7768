using System.Globalization;
using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>The Harbour Master: 1.78 m, buttoned coat, beard, peaked cap. A rig that says nothing, so that everything about it has to be found.</summary>
internal static class HarbourMasterFigure
{
    /// <summary>Units of the file a metre: inches.</summary>
    private const float Inches = 39.3701f;

    /// <summary>How far the arms hang below level at rest, degrees.</summary>
    private const float Lowered = 62;

    private static readonly SurfaceMaterial Skin = Cloth.Of("skin", "#bd9178"),
        Coat = Cloth.Of("coat", "#3d4258"),
        Trousers = Cloth.Of("trousers", "#45424f"),
        Shoes = Cloth.Of("shoes", "#2a2630"),
        Cap = Cloth.Of("cap", "#343848"),
        Beard = Cloth.Of("beard", "#d8d0c4"),
        Brass = Cloth.Of("brass", "#b8934f"),
        Ink = Cloth.Of("ink", "#1a1220");

    /// <summary>Rig and skins as they stand in the file.</summary>
    public static (Skeleton Skeleton, SkinnedFigure Figure) Make()
    {
        var body = HandSkeleton.With(Anthropometry.Body(1.78f), HandShape.Average('L', .19f), HandShape.Average('R', .19f));
        var figure = Sculpt(body);
        // Arms lowered, then turned about to face away, then in inches.
        var down = MathF.PI / 180 * Lowered;
        var (places, normals, joints) = SkinPose.Of(
            body,
            figure,
            new Dictionary<int, Quaternion>
            {
                [body.IndexOf(BodyRole.UpperArmL)] = Quaternion.CreateFromAxisAngle(Vector3.UnitZ, -down),
                [body.IndexOf(BodyRole.UpperArmR)] = Quaternion.CreateFromAxisAngle(Vector3.UnitZ, down),
            }
        );
        Vector3 Turned(Vector3 v) => new(-v.X, v.Y, -v.Z);
        var skeleton = new Skeleton(
            body.Joints.Select(
                (j, k) =>
                    new Joint(
                        (k + 1).ToString("000", CultureInfo.InvariantCulture),
                        j.Parent,
                        Turned(j.Parent < 0 ? joints[k] : joints[k] - joints[j.Parent]) * Inches
                    )
                    {
                        Role = j.Role,
                    }
            )
        );
        var skins = figure.Skins.Select(
            (s, k) =>
                s with
                {
                    Positions = [.. places[k].Select(p => Turned(p) * Inches)],
                    Normals = [.. normals[k].Select(Turned)],
                    Shapes = s.Shapes.ToDictionary(x => x.Key, x => x.Value.Select(m => Turned(m) * Inches).ToArray()),
                }
        );
        // Its bones of the skin have no names either, and a program that rigs like this knows none: bent limbs pinch.
        return (skeleton, new SkinnedFigure([.. skins.Select(s => WithoutHelpers(s, body.Count, figure.Helpers))], []));
    }

    private static SkinnedMesh WithoutHelpers(SkinnedMesh skin, int joints, IReadOnlyList<SkinHelper> helpers)
    {
        ushort Own(ushort bone) => bone < joints ? bone : (ushort)helpers[bone - joints].Joint;
        var bones = new (ushort, ushort, ushort, ushort)[skin.Joints.Length];
        var weights = new Vector4[skin.Weights.Length];
        for (var v = 0; v < bones.Length; v++)
        {
            // A joint and its helper are one here: what both carry is the joint's.
            var (j, w) = (skin.Joints[v], skin.Weights[v]);
            var own = new[] { (Own(j.A), w.X), (Own(j.B), w.Y), (Own(j.C), w.Z), (Own(j.D), w.W) }
                .Where(b => b.Item2 > 0)
                .GroupBy(b => b.Item1)
                .Select(g => (Bone: g.Key, Weight: g.Sum(b => b.Item2)))
                .OrderByDescending(b => b.Weight)
                .Concat(Enumerable.Repeat((Bone: (ushort)0, Weight: 0f), 4))
                .Take(4)
                .ToArray();
            bones[v] = (own[0].Bone, own[1].Bone, own[2].Bone, own[3].Bone);
            weights[v] = new Vector4(own[0].Weight, own[1].Weight, own[2].Weight, own[3].Weight);
        }

        return skin with
        {
            Joints = bones,
            Weights = weights,
        };
    }

    private static SkinnedFigure Sculpt(Skeleton skeleton)
    {
        var bones = new FigureBones(skeleton);
        var m = new BodyMeasure(bones, .01f);
        var head = new HeadSculpt(
            bones.P(BodyRole.Head) + m.V(0, 12.6f, .6f),
            .0104f,
            new HeadForm
            {
                Jaw = 1.06f,
                Chin = .6f,
                Brow = .3f,
                Nose = 1.2f,
            }
        );
        var garments = new List<Garment>
        {
            CoatOf(m),
            Buttons(m),
            TrousersOf(m),
            HeadOf(m, head),
            BeardOf(m, head),
            CapOf(m, head),
            Peak(m, head),
            Band(m, head),
        };
        garments.AddRange(
            FaceSculpt.Of(
                bones,
                head,
                Ink,
                Beard,
                new FaceForm
                {
                    Eye = .66f,
                    Brow = 1.5f,
                    Mouth = 1.6f,
                }
            )
        );
        foreach (var side in "LR")
        {
            garments.Add(HandSculpt.Of(bones, side, Skin));
            garments.AddRange(FootSculpt.Of(m, side, new ShoeForm(28, 10.4f, 7.6f, 2.2f), Shoes, Ink, .0135f));
        }

        return Sculptor.Sculpt(skeleton, bones.Helpers, garments);
    }

    private static Garment CoatOf(BodyMeasure m)
    {
        var bones = m.Bones;
        var (low, high) = bones.TrunkPlaces();
        var parts = new List<SculptPart>
        {
            new(
                m.Upright(
                    low,
                    high,
                    (-.38f, 21.5f, 15, 15.5f, 0),
                    (-.1f, 20.4f, 14.4f, 14.6f, 0),
                    (.2f, 18.6f, 14, 12.6f, .4f),
                    (.45f, 18.6f, 14.4f, 12.4f, .4f),
                    (.7f, 19.6f, 13.8f, 13, -.4f),
                    (.88f, 17.4f, 10.6f, 11.6f, -1),
                    (1.0f, 9.4f, 7.4f, 8, -.8f),
                    (1.07f, 8.6f, 7.4f, 7.4f, -.4f)
                ) with
                {
                    Square = 2.3f,
                    Round = .01f,
                },
                Cloth.Skirt(bones, low.Y + .06f, low.Y - .14f, .95f, .7f, .08f),
                .01f
            ),
        };
        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1f : -1f;
            var arm = bones.ArmBinding(side);
            var (shoulder, elbow, wrist) = bones.ArmPlaces(side);
            parts.Add(new(new Limb(high + m.V(sign * 6, -6, -.6f), shoulder + m.V(sign * -2, .6f, 0), .062f, .064f), arm, .05f));
            parts.Add(
                new(
                    m.Level(shoulder, elbow, (0, 6.9f, 6.6f, 6.2f), (.4f, 6.5f, 5.9f, 5.9f), (1, 5.6f, 5.2f, 5.2f)) with
                    {
                        DomeA = .05f,
                        DomeB = .02f,
                    },
                    arm,
                    .04f
                )
            );
            parts.Add(
                new(
                    m.Level(elbow, wrist, (0, 5.6f, 5.2f, 5.2f), (.5f, 5.5f, 5.1f, 5.1f), (.93f, 5.4f, 5, 5)) with
                    {
                        DomeA = .02f,
                    },
                    arm,
                    .008f
                )
            );
        }

        return new Garment(Coat, .0165f, parts);
    }

    /// <summary>Two rows over the chest.</summary>
    private static Garment Buttons(BodyMeasure m)
    {
        var (low, high) = m.Bones.TrunkPlaces();
        var parts = new List<SculptPart>();
        foreach (var (t, z) in new[] { (.28f, 14.3f), (.42f, 14.7f), (.56f, 14.5f), (.70f, 13.5f) })
        {
            foreach (var x in new[] { 5f, -5f })
            {
                var at = Vector3.Lerp(low, high, t) + m.V(x, 0, z - .6f);
                parts.Add(
                    new(new Limb(at - m.V(0, .05f, 0), at + m.V(0, .05f, 0), .012f, .012f, new(1, 1, .7f)), m.Bones.TrunkBinding, .001f)
                );
            }
        }

        return new Garment(Brass, .0062f, parts);
    }

    private static Garment TrousersOf(BodyMeasure m)
    {
        var bones = m.Bones;
        var (low, high) = bones.TrunkPlaces();
        var parts = new List<SculptPart>
        {
            new(
                m.Upright(low, high, (-.12f, 14, 9, 10, 0), (.02f, 17, 11, 11.6f, 0), (.16f, 16, 11, 10.6f, 0)) with
                {
                    DomeA = .05f,
                    Square = 2.3f,
                },
                bones.TrunkBinding,
                .01f
            ),
        };
        foreach (var side in "LR")
        {
            var leg = bones.LegBinding(side);
            var (hip, knee, ankle) = bones.LegPlaces(side);
            parts.Add(
                new(
                    m.Upright(hip, knee, (.02f, 8.6f, 9.6f, 10, 0), (.4f, 8.6f, 9.8f, 9.6f, .2f), (1, 6.7f, 7.6f, 7, .2f)) with
                    {
                        DomeA = .04f,
                        DomeB = .03f,
                    },
                    leg,
                    .05f
                )
            );
            parts.Add(
                new(
                    m.Upright(knee, ankle, (0, 6.7f, 7.6f, 7, .2f), (.4f, 6.4f, 6.8f, 7.4f, 0), (.98f, 6.2f, 7, 7, .4f)) with
                    {
                        DomeA = .03f,
                    },
                    leg,
                    .008f
                )
            );
        }

        return new Garment(Trousers, .0165f, parts);
    }

    private static Garment HeadOf(BodyMeasure m, HeadSculpt head) =>
        new(
            Skin,
            .0088f,
            [
                .. head.Parts(m.Bones.Rigid(BodyRole.Head)),
                new(
                    new Limb(m.Bones.P(BodyRole.Neck) + m.V(0, -2, -.6f), m.Bones.P(BodyRole.Head) + m.V(0, 3, 0), .062f, .058f),
                    m.Bones.TrunkBinding,
                    .02f
                ),
            ]
        )
        {
            Moves = head.MoveSkin,
        };

    /// <summary>From ear to ear under the mouth; it goes along with the jaw.</summary>
    private static Garment BeardOf(BodyMeasure m, HeadSculpt head)
    {
        var rigid = m.Bones.Rigid(BodyRole.Head);
        return new Garment(
            Beard,
            .0098f,
            [
                new(new Limb(head.At(0, -13.2f, 6.4f), head.At(0, -17.6f, 6.2f), .052f, .034f, new(1.1f, 1, .8f)), rigid, .01f),
                new(new Limb(head.At(6.2f, -6.5f, 2.4f), head.At(4.0f, -13, 5.4f), .018f, .034f), rigid, .02f),
                new(new Limb(head.At(-6.2f, -6.5f, 2.4f), head.At(-4.0f, -13, 5.4f), .018f, .034f), rigid, .02f),
                new(new Limb(head.At(1.7f, -9.7f, 9.6f), head.At(3.4f, -10.8f, 8.6f), .009f, .006f), rigid, .006f),
                new(new Limb(head.At(-1.7f, -9.7f, 9.6f), head.At(-3.4f, -10.8f, 8.6f), .009f, .006f), rigid, .006f),
            ]
        )
        {
            Moves = head.MoveSkin,
        };
    }

    private static Garment CapOf(BodyMeasure m, HeadSculpt head) =>
        new(
            Cap,
            .0135f,
            [
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(head.At(0, 1.5f, .2f), .086f, .104f, .104f),
                        new LoftSection(head.At(0, 5, .2f), .088f, .106f, .106f),
                        new LoftSection(head.At(0, 8.5f, .6f), .124f, .140f, .132f),
                        new LoftSection(head.At(0, 10.6f, .6f), .118f, .134f, .126f)
                    )
                    {
                        DomeB = .016f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );

    private static Garment Peak(BodyMeasure m, HeadSculpt head) =>
        new(
            Ink,
            .0095f,
            [
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(head.At(0, 2, 6), .080f, .009f, .009f),
                        new LoftSection(head.At(0, 1.2f, 12), .074f, .009f, .009f),
                        new LoftSection(head.At(0, -.4f, 15.5f), .052f, .008f, .008f)
                    )
                    {
                        DomeB = .025f,
                        Square = 2.4f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );

    private static Garment Band(BodyMeasure m, HeadSculpt head) =>
        new(
            Brass,
            .0088f,
            [
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(head.At(0, 2.2f, .2f), .0905f, .1085f, .1085f),
                        new LoftSection(head.At(0, 4.2f, .2f), .0905f, .1085f, .1085f)
                    )
                    {
                        Round = .01f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .002f
                ),
            ]
        );
}
