using System.Numerics;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>The neutral figure of a performer: a plain suit over the measured skeleton, whatever its lengths.</summary>
public static class PerformerFigure
{
    private static readonly SurfaceMaterial Suit = SurfaceMaterial.Of("suit", "#c9bfb4"),
        Gloves = SurfaceMaterial.Of("gloves", "#a99fa2"),
        Sole = SurfaceMaterial.Of("soles", "#4c4450"),
        Visor = SurfaceMaterial.Of("visor", "#2f2934");

    /// <param name="skeleton">With the roles of a body, at rest in the T-pose facing +Z; lengths may differ from side to side.</param>
    /// <param name="face">A face that moves, where one was recorded; otherwise a visor.</param>
    public static SkinnedFigure Of(Skeleton skeleton, bool face = false)
    {
        var bones = new FigureBones(skeleton);
        var m = new BodyMeasure(bones, 0.01f * bones.Unit / 1.71f);
        var cell = 1.45f * m.Cm;
        var head = new HeadSculpt(
            bones.P(BodyRole.Head) + m.V(0, 12, .6f),
            m.Cm,
            new HeadForm
            {
                Ears = .8f,
                Cheek = .35f,
                Nose = .8f,
            }
        );
        var garments = new List<Garment>
        {
            Top(m, cell),
            Legs(m, cell),
            face ? Head(m, head) with { Moves = head.MoveSkin } : Head(m, head),
        };
        garments.AddRange(face ? FaceSculpt.Of(bones, head, Visor, Visor, new FaceForm { Eye = .8f, Brow = .8f }) : [Band(m, head)]);
        foreach (var side in "LR")
        {
            garments.Add(HandSculpt.Of(bones, side, Gloves));
            garments.AddRange(FootSculpt.Of(m, side, new ShoeForm(26.5f, 9.6f, 7.4f, 2.2f), Gloves, Sole, m.Cm));
        }

        return Sculptor.Sculpt(skeleton, bones.Helpers, garments);
    }

    /// <summary>Ribs, shoulders and arms.</summary>
    private static Garment Top(BodyMeasure m, float cell)
    {
        var bones = m.Bones;
        var (low, high) = bones.TrunkPlaces();
        var trunk = bones.TrunkBinding;
        var parts = new List<SculptPart>
        {
            new(
                m.Upright(
                    low,
                    high,
                    (.34f, 13.2f, 8.2f, 7.8f, .4f),
                    (.50f, 14.8f, 10.2f, 9.2f, .2f),
                    (.70f, 17.0f, 11.8f, 11.2f, -.4f),
                    (.86f, 15.6f, 9.6f, 10.4f, -.8f),
                    (.97f, 9.5f, 6.6f, 7.2f, -1)
                ) with
                {
                    Square = 2.35f,
                    DomeA = 1.6f * m.Cm,
                    DomeB = 2.2f * m.Cm,
                },
                trunk,
                .01f
            ),
            new(new Limb(high + m.V(0, -3, -1), bones.P(BodyRole.Head) + m.V(0, 2.5f, 0), 6.2f * m.Cm, 5.2f * m.Cm), trunk, 4 * m.Cm),
        };
        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1f : -1f;
            var arm = bones.ArmBinding(side);
            var (shoulder, elbow, wrist) = bones.ArmPlaces(side);
            parts.Add(
                new(
                    new Limb(high + m.V(sign * 5, -6.5f, -.8f), shoulder + m.V(sign * -2.5f, .6f, 0), 5.8f * m.Cm, 5.2f * m.Cm),
                    arm,
                    5 * m.Cm
                )
            );
            parts.Add(
                new(
                    m.Level(
                        shoulder,
                        elbow,
                        (.0f, 5.4f, 5.4f, 4.8f),
                        (.22f, 5.5f, 5.2f, 4.6f),
                        (.5f, 5.1f, 4.3f, 4.3f),
                        (.8f, 4.1f, 3.6f, 3.6f),
                        (1, 3.8f, 3.4f, 3.4f)
                    ) with
                    {
                        DomeA = 4.6f * m.Cm,
                        DomeB = 2 * m.Cm,
                    },
                    arm,
                    4 * m.Cm
                )
            );
            parts.Add(
                new(
                    m.Level(
                        elbow,
                        wrist,
                        (0, 3.8f, 3.4f, 3.4f),
                        (.24f, 4.5f, 3.6f, 3.6f),
                        (.6f, 3.7f, 3.0f, 3.0f),
                        (.97f, 2.8f, 2.3f, 2.3f)
                    ) with
                    {
                        DomeA = 2 * m.Cm,
                        DomeB = .4f * m.Cm,
                    },
                    arm,
                    .8f * m.Cm
                )
            );
        }

        return new Garment(Suit, cell, parts);
    }

    /// <summary>Seat and legs.</summary>
    private static Garment Legs(BodyMeasure m, float cell)
    {
        var bones = m.Bones;
        var (low, high) = bones.TrunkPlaces();
        var parts = new List<SculptPart>
        {
            new(
                m.Upright(
                    low,
                    high,
                    (-.12f, 11.5f, 7.4f, 9, -.6f),
                    (.02f, 15.8f, 9.2f, 10.4f, -.6f),
                    (.16f, 15.2f, 8.8f, 9, 0),
                    (.36f, 12.9f, 8, 7.6f, .4f)
                ) with
                {
                    Square = 2.3f,
                    DomeA = 4 * m.Cm,
                    DomeB = 2 * m.Cm,
                },
                bones.TrunkBinding,
                .01f
            ),
        };
        foreach (var side in "LR")
        {
            var leg = bones.LegBinding(side);
            var sign = side == 'L' ? 1f : -1f;
            var (hip, knee, ankle) = bones.LegPlaces(side);
            parts.Add(
                new(
                    m.Upright(
                        hip,
                        knee,
                        (.02f, 6.9f, 8f, 8.8f, 0),
                        (.14f, 7.6f, 8.5f, 9.2f, .1f),
                        (.3f, 7.5f, 8.5f, 8.8f, .3f),
                        (.68f, 6.1f, 7.1f, 6.8f, .4f),
                        (.93f, 4.9f, 6.2f, 5.5f, .3f),
                        (1, 4.75f, 6.1f, 5.3f, .2f)
                    ) with
                    {
                        DomeA = 4 * m.Cm,
                        DomeB = 2 * m.Cm,
                    },
                    leg,
                    4 * m.Cm
                )
            );
            parts.Add(
                new(
                    m.Upright(
                        knee,
                        ankle,
                        (0, 4.75f, 6.1f, 5.3f, .2f),
                        (.12f, 4.7f, 5.4f, 5.6f, 0),
                        (.3f, 4.8f, 4.7f, 7, -.2f),
                        (.62f, 3.7f, 3.9f, 5, -.2f),
                        (.98f, 3.1f, 3.7f, 4.1f, 0)
                    ) with
                    {
                        DomeA = 2 * m.Cm,
                        DomeB = 1 * m.Cm,
                    },
                    leg,
                    .8f * m.Cm
                )
            );
            // The cap of the knee.
            parts.Add(
                new(
                    new Limb(knee + m.V(sign * -.3f, 1.4f, 4.4f), knee + m.V(sign * -.3f, -2.2f, 4.1f), 1.8f * m.Cm, 1.4f * m.Cm),
                    leg,
                    2 * m.Cm
                )
            );
        }

        return new Garment(Suit, cell, parts);
    }

    private static Garment Head(BodyMeasure m, HeadSculpt head) => new(Suit, .95f * m.Cm, head.Parts(m.Bones.Rigid(BodyRole.Head)));

    /// <summary>A dark band where eyes would be.</summary>
    private static Garment Band(BodyMeasure m, HeadSculpt head)
    {
        var rigid = m.Bones.Rigid(BodyRole.Head);
        Loft Ring(float more) =>
            new(
                Vector3.UnitX,
                new LoftSection(head.At(0, -4.6f, .6f), (7.2f + more) * m.Cm, (8.2f + more) * m.Cm, 8 * m.Cm),
                new LoftSection(head.At(0, -2.7f, .6f), (7.3f + more) * m.Cm, (8.3f + more) * m.Cm, 8 * m.Cm)
            )
            {
                Square = 2.3f,
            };
        return new Garment(
            Visor,
            .6f * m.Cm,
            [
                new(Ring(1.0f), rigid, .001f),
                new(
                    new Limb(head.At(-30, -3.6f, -27.5f), head.At(30, -3.6f, -27.5f), 30 * m.Cm, 30 * m.Cm),
                    null,
                    .3f * m.Cm,
                    SculptAct.Cut
                ),
            ]
        );
    }
}
