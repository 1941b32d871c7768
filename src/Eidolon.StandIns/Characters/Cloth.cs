using System.Numerics;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Geometry;

namespace Eidolon.StandIns.Characters;

/// <summary>Materials of the character sheet, and what its clothes have in common.</summary>
internal static class Cloth
{
    public static SurfaceMaterial Of(string name, string hex) => SurfaceMaterial.Of(name, hex);

    /// <summary>
    /// Below the waist: the legs, the rest the pelvis; left and right by where a place lies. In front cloth lies on the legs, behind it hangs; under
    /// the knees it falls with the shins.
    /// </summary>
    /// <param name="from">Height where the thighs begin to have a say, metres.</param>
    /// <param name="to">Height where they have their whole share, metres.</param>
    /// <param name="front">Share of the thighs in front, 0 to 1.</param>
    /// <param name="back">Share of the thighs behind.</param>
    /// <param name="half">How wide the middle is that follows both, metres.</param>
    public static SkinBinding Skirt(FigureBones bones, float from, float to, float front, float back, float half) =>
        new MixedBinding([bones.TrunkBinding, bones.LegBinding('L'), bones.LegBinding('R')], (p, own) =>
        {
            var ahead = Ease.Smooth((p.Z / .24f) + .5f);
            var down = Ease.Smooth((from - p.Y) / (from - to)) * (back + ((front - back) * ahead));
            var left = Ease.Smooth((p.X / (2 * half)) + .5f);
            (own[0], own[1], own[2]) = (1 - down, down * left, down * (1 - left));
        });

    /// <summary>Everything on one side of a plane stays.</summary>
    public static SculptPart Keep(Vector3 at, Vector3 outwards, float blend = .004f) =>
        new(new HalfSpace(at, Vector3.Normalize(outwards)), null, blend, SculptAct.Keep);

    /// <summary>All behind a plane.</summary>
    private sealed record HalfSpace(Vector3 At, Vector3 Out) : SculptShape
    {
        public override Vector3 Low => new(-1e3f);

        public override Vector3 High => new(1e3f);

        public override float Distance(Vector3 p) => Vector3.Dot(p - At, Out);
    }
}
