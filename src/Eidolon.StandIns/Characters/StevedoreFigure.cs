using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>The Stevedore after the character sheet: 1.95 m, barrel chest, wool shirt, hide apron, boots, flat cap.</summary>
internal static class StevedoreFigure
{
    private static readonly SurfaceMaterial Skin = Cloth.Of("skin", "#b58a70"),
        Wool = Cloth.Of("wool_shirt", "#c9bca4"),
        Hide = Cloth.Of("hide_apron", "#70503f"),
        Canvas = Cloth.Of("tarred_canvas", "#4a4556"),
        Red = Cloth.Of("kerchief", "#a8583f"),
        Cap = Cloth.Of("cap", "#5c4a60"),
        Boots = Cloth.Of("boots", "#2f2934"),
        Hair = Cloth.Of("hair", "#4a3630"),
        Ink = Cloth.Of("ink", "#1a1220");

    private static readonly SheetJoint[] Sheet =
    [
        new("Pelvis", null, 98, 0, 0),
        new("SpineLower", "Pelvis", 112, 0, -1),
        new("SpineUpper", "SpineLower", 128, 0, -2.5f),
        new("Chest", "SpineUpper", 146, 0, -4),
        new("Neck", "Chest", 166, 0, -2),
        new("Head", "Neck", 173, 0, 0),
        new("Eye", "Head", 181, 3.7f, 8.8f),
        new("Clavicle", "Chest", 160, 4, 2),
        new("UpperArm", "Clavicle", 157, 26, -3),
        new("Forearm", "UpperArm", 119, 37, -2.5f),
        new("Hand", "Forearm", 85, 40.5f, 1),
        new("Thigh", "Pelvis", 95, 12, 0),
        new("Shin", "Thigh", 50, 12.5f, 1.5f),
        new("Foot", "Shin", 10, 13, -2),
        new("Toes", "Foot", 2.5f, 14.5f, 13.5f),
    ];

    /// <summary>The rig before it gets names and axes of its own.</summary>
    public static Skeleton Body()
    {
        var body = SheetRig.Body(Sheet, 26, .20f);
        foreach (var s in "LR")
        {
            BodyRole R(string stem) => Enum.Parse<BodyRole>(stem + s);
            body = Rig.Insert(body, R("UpperArmTwist"), R("UpperArm"), R("Forearm"), 0.5f, between: false);
            body = Rig.Insert(body, R("ForearmTwist"), R("Forearm"), R("Hand"), 0.5f, between: false);
        }

        return body;
    }

    public static SkinnedFigure Sculpt(Skeleton skeleton)
    {
        var bones = new FigureBones(skeleton);
        var m = new BodyMeasure(bones, .01f);
        var head = new HeadSculpt(
            m.V(0, 185.6f, 1.2f),
            .0119f,
            new HeadForm
            {
                Wide = 1.03f,
                Deep = 1.05f,
                Jaw = 1.22f,
                Chin = .7f,
                Brow = .5f,
                Nose = 1.25f,
                Ears = 1.1f,
            }
        );
        var garments = new List<Garment>
        {
            Shirt(m),
            Apron(m),
            Strap(m, 1),
            Strap(m, -1),
            Ties(m),
            Trousers(m),
            Kerchief(m),
            HeadOf(m, head),
            CapOf(m),
            Peak(m),
            HairOf(m, head),
        };
        garments.AddRange(
            FaceSculpt.Of(
                bones,
                head,
                Ink,
                Ink,
                new FaceForm
                {
                    Eye = .62f,
                    Apart = 3.0f,
                    Brow = 1,
                }
            )
        );
        foreach (var side in "LR")
        {
            garments.Add(Forearm(m, side));
            garments.Add(Cuff(m, side));
            garments.Add(HandSculpt.Of(bones, side, Skin, 1.04f));
            garments.Add(Shaft(m, side));
            garments.AddRange(FootSculpt.Of(m, side, new ShoeForm(36, 12.6f, 10.5f, 2.5f), Boots, Ink, .019f));
        }

        return Sculptor.Sculpt(skeleton, bones.Helpers, garments);
    }

    private static Garment Shirt(BodyMeasure m)
    {
        var trunk = m.Bones.TrunkBinding;
        var parts = new List<SculptPart> { new(Torso(m, 0), trunk, .01f) };
        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1f : -1f;
            var (shoulder, elbow, _) = m.Bones.ArmPlaces(side);
            var arm = m.Bones.ArmBinding(side);
            parts.Add(new(new Limb(m.V(sign * 9, 157, -3), shoulder + m.V(sign * -3, 1, 0), .085f, .09f), arm, .06f));
            parts.Add(
                new(
                    m.Level(
                        shoulder,
                        elbow,
                        (0, 10, 9.6f, 9.2f),
                        (.25f, 9.9f, 9, 9),
                        (.6f, 9.2f, 8.2f, 8.4f),
                        (.86f, 8.7f, 7.9f, 8.2f),
                        (.95f, 8.2f, 7.5f, 7.7f)
                    ) with
                    {
                        DomeA = .075f,
                    },
                    arm,
                    .05f
                )
            );
        }

        return new Garment(Wool, .022f, parts);
    }

    /// <summary>The sleeve rolled up above the elbow: three folds.</summary>
    private static Garment Cuff(BodyMeasure m, char side)
    {
        var (shoulder, elbow, _) = m.Bones.ArmPlaces(side);
        return new Garment(
            Wool,
            .0122f,
            [
                new(
                    m.Level(
                        shoulder,
                        elbow,
                        (.80f, 8.4f, 7.6f, 7.8f),
                        (.83f, 9.6f, 8.7f, 9.0f),
                        (.865f, 9.0f, 8.1f, 8.4f),
                        (.895f, 9.8f, 8.9f, 9.2f),
                        (.93f, 9.1f, 8.2f, 8.5f),
                        (.96f, 9.6f, 8.7f, 9.0f),
                        (.99f, 8.4f, 7.5f, 7.8f)
                    ),
                    m.Bones.ArmBinding(side),
                    .01f
                ),
            ]
        );
    }

    private static Garment Forearm(BodyMeasure m, char side)
    {
        var (_, elbow, wrist) = m.Bones.ArmPlaces(side);
        return new Garment(
            Skin,
            .0175f,
            [
                new(
                    m.Level(
                        elbow,
                        wrist,
                        (-.14f, 6.4f, 5.8f, 5.8f),
                        (.04f, 6.7f, 6.2f, 6.2f),
                        (.28f, 7.5f, 6.7f, 6.9f),
                        (.62f, 5.9f, 4.9f, 5.1f),
                        (.9f, 4.5f, 3.3f, 3.4f),
                        (1.02f, 4.2f, 3.1f, 3.1f)
                    ),
                    m.Bones.ArmBinding(side),
                    .01f
                ),
            ]
        );
    }

    /// <summary>Bib and skirt of hide: it lies on the chest and hangs four centimetres off the hips.</summary>
    private static Garment Apron(BodyMeasure m)
    {
        var skirt = Cloth.Skirt(m.Bones, 1.04f, .80f, .95f, .7f, .10f);
        return new Garment(
            Hide,
            .017f,
            [
                new(
                    m.Stack(
                        (45, 23.5f, 19, 15, 2.5f),
                        (60, 24, 19, 16, 2),
                        (84, 24.4f, 19, 17, 1),
                        (100, 24, 18.5f, 17, .3f),
                        (112, 23.6f, 18.6f, 17, 0),
                        (128, 26.2f, 21.7f, 19, -.5f),
                        (141, 27, 22.1f, 21, -1.5f),
                        (152, 24.7f, 17.2f, 19, -3)
                    ) with
                    {
                        Square = 2.3f,
                    },
                    skirt,
                    .01f
                ),
                // Inside, under the waist, there is room for the legs.
                new(
                    m.Stack(
                        (40, 20.7f, 16.2f, 13, 2.5f),
                        (60, 21.2f, 16.2f, 14, 2),
                        (84, 21.6f, 16.2f, 15, 1),
                        (104, 20, 15.2f, 14, .3f)
                    ) with
                    {
                        Square = 2.3f,
                    },
                    null,
                    .02f,
                    SculptAct.Cut
                ),
                Cloth.Keep(m.V(0, 0, -1), -Vector3.UnitZ, .02f),
                // The bib narrows towards its top.
                new(
                    m.Stack(
                        (40, 40, 60, 60, 0),
                        (108, 40, 60, 60, 0),
                        (118, 27, 60, 60, 0),
                        (132, 17, 60, 60, 0),
                        (151, 12.5f, 60, 60, 0)
                    ) with
                    {
                        Square = 8,
                    },
                    null,
                    .015f,
                    SculptAct.Keep
                ),
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(m.V(0, 74, 19.6f), .085f, .014f),
                        new LoftSection(m.V(0, 88, 19.0f), .09f, .014f)
                    )
                    {
                        Square = 5,
                    },
                    skirt,
                    .004f
                ),
            ]
        );
    }

    /// <summary>A strap over a shoulder, from the bib to the back: a band of the shirt's own form, laid over it.</summary>
    private static Garment Strap(BodyMeasure m, float sign)
    {
        var trunk = m.Bones.TrunkBinding;
        return new Garment(
            Hide,
            .015f,
            [
                new(Torso(m, 1.3f), trunk, .01f),
                new(new Limb(m.V(sign * 9, 157, -3), m.V(sign * 23, 158, -3), .098f, .10f), trunk, .06f),
                Cloth.Keep(m.V(sign * 13.6f, 0, 0), new(sign, .0f, 0), .008f),
                Cloth.Keep(m.V(sign * 8.6f, 0, 0), new(-sign, .0f, 0), .008f),
                Cloth.Keep(m.V(0, 116, 0), -Vector3.UnitY, .008f),
            ]
        );
    }

    /// <summary>Round the waist.</summary>
    private static Garment Ties(BodyMeasure m) =>
        new(
            Hide,
            .015f,
            [
                new(
                    m.Stack((109, 23.9f, 18.4f, 17.2f, 0), (113.5f, 24.1f, 18.6f, 17.4f, 0)) with
                    {
                        Square = 2.3f,
                        Round = .012f,
                    },
                    m.Bones.TrunkBinding,
                    .002f
                ),
            ]
        );

    /// <summary>Belly, chest and shoulders, so many centimetres over the shirt.</summary>
    private static Loft Torso(BodyMeasure m, float over) =>
        m.Stack(
            (96, 20.5f + over, 14.5f + over, 15 + over, 0),
            (112, 22.3f + over, 17 + over, 15.5f + over, 0),
            (128, 25 + over, 20.2f + over, 17.5f + over, -.5f),
            (141, 26 + over, 20.6f + over, 20 + over, -1.5f),
            (152, 23.5f + over, 15.5f + over, 18 + over, -3),
            (161 + (over / 2), 15.5f + over, 10.5f + over, 12.5f + over, -3),
            (167 + over, 9 + over, 7 + over, 8 + over, -2)
        ) with
        {
            Square = 2.3f,
            DomeB = .02f,
        };

    private static Garment Trousers(BodyMeasure m)
    {
        var parts = new List<SculptPart>
        {
            new(
                m.Stack((86, 19, 12, 14, 0), (98, 21.4f, 15, 15.6f, 0), (108, 20.5f, 14.5f, 14.5f, 0)) with
                {
                    Square = 2.3f,
                    DomeA = .07f,
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
                    m.Upright(
                        hip,
                        knee,
                        (.02f, 10.6f, 12.4f, 13, 0),
                        (.36f, 10.6f, 12.8f, 12.6f, .2f),
                        (.75f, 8.6f, 10, 9.4f, .4f),
                        (1, 7.7f, 9, 8.2f, .2f)
                    ) with
                    {
                        DomeA = .05f,
                        DomeB = .03f,
                    },
                    leg,
                    .06f
                )
            );
            parts.Add(
                new(
                    m.Upright(
                        knee,
                        ankle,
                        (0, 7.7f, 9, 8.2f, .2f),
                        (.25f, 7.6f, 8.2f, 9.4f, 0),
                        (.5f, 7.9f, 8.6f, 9.4f, 0),
                        (.62f, 8.6f, 9.6f, 9.8f, 0),
                        (.70f, 7, 8, 8, 0)
                    ) with
                    {
                        DomeA = .03f,
                    },
                    leg,
                    .008f
                )
            );
        }

        return new Garment(Canvas, .022f, parts);
    }

    private static Garment Shaft(BodyMeasure m, char side)
    {
        var (_, knee, ankle) = m.Bones.LegPlaces(side);
        return new Garment(
            Boots,
            .0185f,
            [
                new(
                    m.Upright(
                        knee,
                        ankle,
                        (.55f, 7.6f, 8.6f, 8.6f, 0),
                        (.585f, 8.5f, 9.5f, 9.5f, 0),
                        (.62f, 7.9f, 8.7f, 8.9f, 0),
                        (.8f, 7, 7.8f, 8.2f, 0),
                        (1, 6.3f, 8.3f, 7.8f, 0),
                        (1.12f, 6, 8.6f, 7.6f, .4f)
                    ) with
                    {
                        DomeB = .02f,
                    },
                    m.Bones.LegBinding(side),
                    .01f
                ),
            ]
        );
    }

    private static Garment Kerchief(BodyMeasure m)
    {
        var trunk = m.Bones.TrunkBinding;
        var chest = m.Bones.Rigid(BodyRole.Chest);
        return new Garment(
            Red,
            .0095f,
            [
                new(
                    m.Stack((157.5f, 14.6f, 12, 13, -2.5f), (162, 13.2f, 11.6f, 11.6f, -2), (165.8f, 10.2f, 9, 9, -1.2f)) with
                    {
                        Square = 2.2f,
                        Round = .016f,
                    },
                    trunk,
                    .01f
                ),
                new(m.Egg(new(0, 158.5f, 11.6f), 3.2f, 2.7f, 2.6f), chest, .012f),
                new(new Limb(m.V(-1, 157.5f, 12), m.V(-5.5f, 147.5f, 17.6f), .018f, .034f, new(1, 1, .5f)), chest, .01f),
                new(new Limb(m.V(1, 157.5f, 12), m.V(4, 145, 18.4f), .018f, .032f, new(1, 1, .5f)), chest, .01f),
            ]
        );
    }

    private static Garment HeadOf(BodyMeasure m, HeadSculpt head)
    {
        var rigid = m.Bones.Rigid(BodyRole.Head);
        return new Garment(
            Skin,
            .0108f,
            [
                .. head.Parts(rigid),
                new(
                    m.Stack((160, 9.4f, 7.4f, 8.4f, -2.5f), (168, 8.5f, 6.2f, 7.2f, -1.4f), (178, 8.0f, 6.4f, 7.4f, 0)) with
                    {
                        Square = 2.2f,
                        DomeB = .02f,
                    },
                    m.Bones.TrunkBinding,
                    .03f
                ),
            ]
        )
        {
            Moves = head.MoveSkin,
        };
    }

    private static Garment HairOf(BodyMeasure m, HeadSculpt head)
    {
        var rigid = m.Bones.Rigid(BodyRole.Head);
        return new Garment(
            Hair,
            .013f,
            [
                new(
                    m.Stack((178, 9.1f, 5, 10.4f, -.4f), (184, 10, 6, 11.9f, .2f), (192, 9.6f, 6, 11.6f, .2f)) with
                    {
                        DomeB = .04f,
                        DomeA = .015f,
                    },
                    rigid,
                    .01f
                ),
                Cloth.Keep(m.V(0, 183, 2.5f), new(0, -.25f, 1)),
            ]
        );
    }

    /// <summary>A flat cap that overhangs.</summary>
    private static Garment CapOf(BodyMeasure m) =>
        new(
            Cap,
            .014f,
            [
                new(
                    m.Stack(
                        (186.6f, 10.2f, 12.2f, 11.8f, .8f),
                        (189.5f, 10.8f, 13, 12.4f, .8f),
                        (193, 12.4f, 14, 14, .6f),
                        (197, 11.6f, 12, 13.4f, 0)
                    ) with
                    {
                        DomeB = .035f,
                        Square = 2.15f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );

    private static Garment Peak(BodyMeasure m) =>
        new(
            Cap,
            .0095f,
            [
                new(
                    new Loft(
                        Vector3.UnitX,
                        new LoftSection(m.V(0, 188, 6), .098f, .012f),
                        new LoftSection(m.V(0, 187.4f, 13), .094f, .011f),
                        new LoftSection(m.V(0, 185.6f, 18), .070f, .010f)
                    )
                    {
                        DomeB = .035f,
                        Square = 2.4f,
                    },
                    m.Bones.Rigid(BodyRole.Head),
                    .01f
                ),
            ]
        );
}
