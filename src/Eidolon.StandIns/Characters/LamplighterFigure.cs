using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>The Lamplighter after the character sheet: 1.45 m, slight, long coat, tall hat with a wide brim.</summary>
internal static class LamplighterFigure
{
    private static readonly SurfaceMaterial Skin = Cloth.Of("skin", "#cfae9a"),
        Coat = Cloth.Of("coat", "#5f4a66"),
        Lining = Cloth.Of("lining", "#3f3148"),
        Hat = Cloth.Of("hat", "#3c3044"),
        Red = Cloth.Of("scarf", "#a8583f"),
        Brass = Cloth.Of("brass", "#b8934f"),
        Hair = Cloth.Of("hair", "#4a3630"),
        Legs = Cloth.Of("legs", "#4c4450"),
        Shoes = Cloth.Of("shoes", "#2f2934"),
        Iron = Cloth.Of("iron_hook", "#77707f"),
        Ink = Cloth.Of("ink", "#1a1220");

    private static readonly SheetJoint[] Sheet =
    [
        new("Pelvis", null, 72, 0, 0),
        new("SpineLower", "Pelvis", 86, 0, -.8f),
        new("Chest", "SpineLower", 105, 0, -2),
        new("Neck", "Chest", 116, 0, -1),
        new("Head", "Neck", 120.5f, 0, 0),
        new("Eye", "Head", 130.2f, 4.1f, 7),
        new("Clavicle", "Chest", 113.5f, 2.5f, 1.5f),
        new("UpperArm", "Clavicle", 112, 13, -1.5f),
        new("Forearm", "UpperArm", 91, 18.5f, -1),
        new("Hand", "Forearm", 72.5f, 22, 1.5f),
        new("Thigh", "Pelvis", 71, 6, 0),
        new("Shin", "Thigh", 38, 6.5f, 1),
        new("Foot", "Shin", 8, 6.5f, -1.5f),
        new("Toes", "Foot", 1.8f, 7.5f, 9),
    ];

    /// <summary>The rig before it gets names and axes of its own.</summary>
    public static Skeleton Body() => SheetRig.Body(Sheet, 16, .24f);

    public static SkinnedFigure Sculpt(Skeleton skeleton)
    {
        var bones = new FigureBones(skeleton);
        var m = new BodyMeasure(bones, .01f);
        const float cm = .0108f;
        var head = new HeadSculpt(
            m.V(0, 135, .8f),
            cm,
            new HeadForm
            {
                Wide = 1.14f,
                Deep = .98f,
                Jaw = .92f,
                Brow = -.6f,
                Cheek = .25f,
                Nose = .62f,
                Ears = 0,
            }
        );
        var garments = new List<Garment>
        {
            CoatOf(m),
            Collar(m),
            Lapel(m, 1),
            Lapel(m, -1),
            Inside(m),
            Belt(m),
            Metal(m),
            Scarf(m),
            HeadOf(m, head),
            HairOf(m),
            HatOf(m),
            Brim(m),
            Band(m),
            LegsOf(m),
            Hook(m),
        };
        garments.AddRange(
            FaceSculpt.Of(
                bones,
                head,
                Ink,
                Hair,
                new FaceForm
                {
                    Eye = .95f,
                    Apart = 3.3f,
                    Brow = .7f,
                    Mouth = 1.9f,
                    Line = -4.4f,
                }
            )
        );
        foreach (var side in "LR")
        {
            garments.Add(CuffOf(m, side));
            garments.Add(HandSculpt.Of(bones, side, Skin));
            garments.AddRange(FootSculpt.Of(m, side, new ShoeForm(23.5f, 10.6f, 7.5f, 2), Shoes, Ink, .0145f));
            garments.Add(Buckle(m, side));
        }

        return Sculptor.Sculpt(skeleton, bones.Helpers, garments);
    }

    /// <summary>Shoulders to hem, with sleeves; open in front below the belt.</summary>
    private static Garment CoatOf(BodyMeasure m)
    {
        var bones = m.Bones;
        var skirt = Cloth.Skirt(bones, .78f, .56f, .95f, .6f, .07f);
        var parts = new List<SculptPart>
        {
            new(
                m.Stack(
                    (27, 21.5f, 18, 18.5f, -.5f),
                    (40, 19.4f, 15.8f, 16.5f, -.4f),
                    (58, 16.2f, 13, 13.6f, -.3f),
                    (74, 13, 10.6f, 11, 0),
                    (85, 10.9f, 9.5f, 9.7f, 0),
                    (96, 12.4f, 10.4f, 10.6f, -.6f),
                    (105, 13.4f, 10.6f, 11, -1.2f),
                    (112, 11.6f, 7.6f, 9, -1.6f),
                    (116.5f, 6.6f, 5.6f, 6, -1)
                ) with
                {
                    DomeB = .01f,
                    Square = 2.25f,
                },
                skirt,
                .01f
            ),
        };
        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1f : -1f;
            var arm = bones.ArmBinding(side);
            var (shoulder, elbow, wrist) = bones.ArmPlaces(side);
            parts.Add(new(new Limb(m.V(sign * 4.5f, 112.5f, -1.4f), shoulder + m.V(sign * -1.5f, .3f, 0), .045f, .050f), arm, .045f));
            parts.Add(
                new(
                    m.Level(
                        shoulder,
                        elbow,
                        (0, 5.3f, 5.3f, 5.2f),
                        (.3f, 5.1f, 4.8f, 4.8f),
                        (.7f, 4.7f, 4.3f, 4.5f),
                        (1, 4.6f, 4.3f, 4.4f)
                    ) with
                    {
                        DomeA = .045f,
                        DomeB = .02f,
                    },
                    arm,
                    .03f
                )
            );
            parts.Add(
                new(
                    m.Level(elbow, wrist, (0, 4.6f, 4.3f, 4.4f), (.4f, 4.8f, 4.4f, 4.7f), (.72f, 5.2f, 4.8f, 5.1f)) with
                    {
                        DomeA = .02f,
                    },
                    arm,
                    .006f
                )
            );
        }

        // Hollow below the belt, and open in front.
        parts.Add(
            new(
                m.Stack(
                    (20, 20f, 16.6f, 17f, -.5f),
                    (27, 18.9f, 15.5f, 16f, -.5f),
                    (40, 16.9f, 13.4f, 14f, -.4f),
                    (58, 13.7f, 10.6f, 11.1f, -.3f),
                    (72, 10.4f, 8.2f, 8.6f, 0)
                ) with
                {
                    Square = 2.25f,
                },
                null,
                .012f,
                SculptAct.Cut
            )
        );
        parts.Add(
            new(
                new Loft(
                    Vector3.UnitX,
                    new LoftSection(m.V(0, 20, 14), .042f, .09f),
                    new LoftSection(m.V(0, 50, 12), .020f, .08f),
                    new LoftSection(m.V(0, 78, 12), .004f, .05f)
                ),
                null,
                .012f,
                SculptAct.Cut
            )
        );
        return new Garment(Coat, .0132f, parts);
    }

    /// <summary>A turned-up collar and the two edges that meet over the chest.</summary>
    private static Garment Collar(BodyMeasure m)
    {
        var trunk = m.Bones.TrunkBinding;
        var parts = new List<SculptPart>
        {
            new(
                m.Stack((112, 9.6f, 7.4f, 8.4f, -1.4f), (117, 8.6f, 7.4f, 8.4f, -1), (121.5f, 8.9f, 6, 9.2f, -.8f)) with
                {
                    Square = 2.2f,
                },
                trunk,
                .01f
            ),
            new(m.Stack((110, 6.6f, 30, 5.8f, -.6f), (125, 7.0f, 30, 7, -.6f)), null, .006f, SculptAct.Cut),
        };
        return new Garment(Coat, .0125f, parts);
    }

    /// <summary>An edge of the coat folded back over the chest, down to the first button.</summary>
    private static Garment Lapel(BodyMeasure m, float sign) =>
        new(
            Lining,
            .0105f,
            [
                new(Chest(m, .75f), m.Bones.TrunkBinding, .01f),
                Cloth.Keep(m.V(sign * .3f, 98.5f, 0), new(-sign * .92f, -.38f, 0), .006f),
                Cloth.Keep(m.V(sign * 1.4f, 98.5f, 0), new(sign * .90f, -.40f, 0), .006f),
                Cloth.Keep(m.V(0, 111.5f, 0), new(sign * .25f, 1, 0), .006f),
                Cloth.Keep(m.V(0, 0, 1), -Vector3.UnitZ, .006f),
            ]
        );

    /// <summary>Waist to shoulders, so many centimetres over the coat.</summary>
    private static Loft Chest(BodyMeasure m, float over) =>
        m.Stack(
            (85, 10.9f + over, 9.5f + over, 9.7f + over, 0),
            (96, 12.4f + over, 10.4f + over, 10.6f + over, -.6f),
            (105, 13.4f + over, 10.6f + over, 11 + over, -1.2f),
            (112, 11.6f + over, 7.6f + over, 9 + over, -1.6f),
            (116.5f, 6.6f + over, 5.6f + over, 6 + over, -1)
        ) with
        {
            Square = 2.25f,
        };

    /// <summary>What shows inside the open coat.</summary>
    private static Garment Inside(BodyMeasure m) =>
        new(
            Lining,
            .015f,
            [
                new(
                    m.Stack(
                        (31, 18.6f, 15.2f, 15.7f, -.5f),
                        (40, 17.8f, 14.3f, 14.9f, -.4f),
                        (58, 14.5f, 11.4f, 11.9f, -.3f),
                        (76, 11.2f, 9, 9.4f, 0)
                    ) with
                    {
                        Square = 2.25f,
                    },
                    Cloth.Skirt(m.Bones, .78f, .56f, .95f, .6f, .07f),
                    .01f
                ),
                new(
                    m.Stack(
                        (20, 18, 14.6f, 15.1f, -.5f),
                        (40, 15.9f, 12.4f, 13, -.4f),
                        (58, 12.5f, 9.4f, 9.9f, -.3f),
                        (70, 9, 6.8f, 7.2f, 0)
                    ) with
                    {
                        Square = 2.25f,
                    },
                    null,
                    .012f,
                    SculptAct.Cut
                ),
                Cloth.Keep(m.V(0, 0, 3.5f), Vector3.UnitZ, .01f),
            ]
        );

    private static Garment Belt(BodyMeasure m) =>
        new(
            Hat,
            .0115f,
            [
                new(
                    m.Stack((84, 11.7f, 10.2f, 10.4f, 0), (88, 11.7f, 10.2f, 10.4f, 0)) with
                    {
                        Square = 2.25f,
                        Round = .012f,
                    },
                    m.Bones.TrunkBinding,
                    .004f
                ),
            ]
        );

    /// <summary>Buckle and buttons.</summary>
    private static Garment Metal(BodyMeasure m)
    {
        var trunk = m.Bones.TrunkBinding;
        var parts = new List<SculptPart>
        {
            new(
                new Loft(Vector3.UnitX, new LoftSection(m.V(0, 83.8f, 10), .024f, .009f), new LoftSection(m.V(0, 88.2f, 10), .024f, .009f))
                {
                    Square = 6,
                },
                trunk,
                .002f
            ),
        };
        foreach (var (x, y, z) in new[] { (0f, 92.5f, 9.9f), (0f, 97f, 10.1f), (2.4f, 79f, 10.2f), (2.8f, 73f, 11.2f) })
        {
            parts.Add(new(m.Egg(new(x, y, z), .85f, .85f, .6f), trunk, .001f));
        }

        return new Garment(Brass, .0052f, parts);
    }

    private static Garment Scarf(BodyMeasure m)
    {
        var chest = m.Bones.Rigid(BodyRole.Chest);
        return new Garment(
            Red,
            .0105f,
            [
                new(
                    m.Stack((113, 6.4f, 7, 6, -.8f), (117, 6.6f, 6.9f, 6.2f, -.3f), (120, 5.8f, 6, 5.4f, 0)) with
                    {
                        DomeB = .004f,
                    },
                    m.Bones.TrunkBinding,
                    .01f
                ),
                new(m.Bar(new(0, 113.6f, 5.4f), new(0, 107, 8.6f), 3.2f, 1.3f), chest, .012f),
            ]
        );
    }

    private static Garment HeadOf(BodyMeasure m, HeadSculpt head)
    {
        var rigid = m.Bones.Rigid(BodyRole.Head);
        return new Garment(
            Skin,
            .0092f,
            [
                .. head.Parts(rigid),
                new(
                    m.Stack((112, 5, 4.6f, 4.6f, -1), (118, 4.8f, 4.4f, 4.4f, -.4f), (125, 4.6f, 4.2f, 4.4f, 0)) with
                    {
                        DomeB = .02f,
                    },
                    m.Bones.TrunkBinding,
                    .02f
                ),
            ]
        )
        {
            Moves = head.MoveSkin,
        };
    }

    /// <summary>To the chin at the sides and behind, parted before the face.</summary>
    private static Garment HairOf(BodyMeasure m) =>
        new(
            Hair,
            .0125f,
            [
                new(
                    m.Stack(
                        (117.5f, 9.8f, 6, 8.4f, -1),
                        (122, 11, 8, 10, -.6f),
                        (131, 11, 9.2f, 11.2f, -.2f),
                        (138, 10.2f, 9.6f, 10.8f, 0),
                        (142, 8.8f, 8.6f, 9.4f, 0)
                    ) with
                    {
                        DomeB = .03f,
                        DomeA = .012f,
                        Square = 2.2f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(m.V(0, 108, 15), .074f, .15f),
                        new LoftSection(m.V(0, 127, 15), .080f, .145f),
                        new LoftSection(m.V(0, 136.5f, 15), .060f, .11f)
                    )
                    {
                        DomeB = .04f,
                    },
                    null,
                    .012f,
                    SculptAct.Cut
                ),
            ]
        );

    private static Garment HatOf(BodyMeasure m) =>
        new(
            Hat,
            .017f,
            [
                new(
                    m.Stack(
                        (138, 10.4f, 10.4f, 10.8f, 0),
                        (145, 10.2f, 10.1f, 10.5f, -.2f),
                        (153, 9.6f, 9.5f, 9.8f, -.5f),
                        (159, 9.4f, 9.3f, 9.6f, -.8f)
                    ) with
                    {
                        DomeB = .022f,
                        Square = 2.2f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );

    private static Garment Brim(BodyMeasure m) =>
        new(
            Hat,
            .0095f,
            [
                new(
                    m.Stack((137.7f, 17.6f, 17.2f, 17.6f, 0), (138.9f, 18, 17.6f, 18, 0)) with
                    {
                        Round = .007f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );

    private static Garment Band(BodyMeasure m) =>
        new(
            Red,
            .0105f,
            [
                new(
                    m.Stack((139.6f, 10.9f, 10.9f, 11.3f, 0), (144, 10.8f, 10.7f, 11.1f, -.2f)) with
                    {
                        Square = 2.2f,
                        Round = .012f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .003f
                ),
            ]
        );

    /// <summary>The sleeve's end, turned back.</summary>
    private static Garment CuffOf(BodyMeasure m, char side)
    {
        var (_, elbow, wrist) = m.Bones.ArmPlaces(side);
        var sign = side == 'L' ? 1f : -1f;
        return new Garment(
            Coat,
            .0125f,
            [
                new(
                    m.Level(elbow, wrist, (.56f, 5.6f, 5.3f, 5.5f), (.62f, 6.2f, 5.9f, 6.1f), (.94f, 6.1f, 5.8f, 6)),
                    m.Bones.ArmBinding(side),
                    .004f
                ),
                new(m.Level(elbow, wrist, (.86f, 4.8f, 4.5f, 4.7f), (1.2f, 5, 4.7f, 4.9f)), null, .004f, SculptAct.Cut),
            ]
        );
    }

    private static Garment LegsOf(BodyMeasure m)
    {
        var parts = new List<SculptPart>
        {
            new(
                m.Stack((64, 9.5f, 8, 8.5f, 0), (72, 10.2f, 8, 8.4f, 0), (79, 9.4f, 7.6f, 7.8f, 0)) with
                {
                    DomeA = .03f,
                },
                m.Bones.TrunkBinding,
                .01f
            ),
        };
        foreach (var side in "LR")
        {
            var leg = m.Bones.LegBinding(side);
            var (hip, knee, ankle) = m.Bones.LegPlaces(side);
            parts.Add(
                new(
                    m.Upright(hip, knee, (0, 5.4f, 6.2f, 6.6f, 0), (.4f, 5.5f, 6.5f, 6.4f, .2f), (1, 4.5f, 5.2f, 4.8f, .1f)) with
                    {
                        DomeA = .03f,
                        DomeB = .02f,
                    },
                    leg,
                    .035f
                )
            );
            parts.Add(
                new(
                    m.Upright(
                        knee,
                        ankle,
                        (0, 4.5f, 5.2f, 4.8f, .1f),
                        (.3f, 4.4f, 4.7f, 6, -.1f),
                        (.8f, 3.5f, 4.2f, 4.8f, 0),
                        (1, 3.4f, 4.4f, 4.8f, 0)
                    ) with
                    {
                        DomeA = .02f,
                        DomeB = .01f,
                    },
                    leg,
                    .006f
                )
            );
        }

        return new Garment(Legs, .018f, parts);
    }

    private static Garment Buckle(BodyMeasure m, char side)
    {
        var ankle = m.Bones.P(FigureBones.Role("Foot", side));
        return new Garment(
            Brass,
            .005f,
            [
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(ankle + m.V(.4f, -3.2f, 6.2f), .017f, .012f),
                        new LoftSection(ankle + m.V(.4f, -.8f, 4.9f), .017f, .012f)
                    )
                    {
                        Square = 5,
                    },
                    m.Bones.Rigid(FigureBones.Role("Foot", side)),
                    .001f
                ),
            ]
        );
    }

    /// <summary>For the lantern, at the right hip.</summary>
    private static Garment Hook(BodyMeasure m)
    {
        var pelvis = m.Bones.Rigid(BodyRole.Pelvis);
        Vector3[] way =
        [
            new(-11.4f, 86, 3),
            new(-12.6f, 83, 3.6f),
            new(-13.2f, 78, 4),
            new(-14.2f, 76.4f, 4.6f),
            new(-15.3f, 77.4f, 5),
            new(-15.4f, 79, 5),
        ];
        return new Garment(
            Iron,
            .0042f,
            [.. way.Zip(way.Skip(1)).Select(w => new SculptPart(m.Bar(w.First, w.Second, .5f, .5f), pelvis, .003f))]
        );
    }
}
