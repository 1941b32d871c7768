using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Lays the parts of a body over a skeleton with roles that stands in the T-pose facing +Z.</summary>
public static class BodyParts
{
    /// <summary>The parts of a whole body around a skeleton in its rest pose, metres.</summary>
    public static List<SculptPart> Human(Skeleton s, BodyBuild build)
    {
        var work = new Work(s, build);
        work.Trunk();
        work.HeadAndNeck();
        foreach (var side in "LR")
        {
            work.Arm(side);
            work.Hand(side);
            work.Leg(side);
        }

        return work.Parts;
    }

    /// <summary>A performer's figure: the skin over their measured skeleton.</summary>
    public static SkinnedMesh Figure(Skeleton s, BodyBuild? build = null)
    {
        var parts = Human(s, build ?? new BodyBuild());
        const float cell = 0.0135f;
        float? floor = MathF.Abs(s.RestPositions.Min(p => p.Y)) < 0.08f ? 0.002f : null;
        if (!Hands.HandSkeleton.HasFingers(s))
        {
            return BodySculptor.Sculpt(s, parts, cell, floor);
        }

        // Fingers are finer than what the rest of a body needs: each hand is a skin of its own that begins in the sleeve.
        char SideOf(SculptPart p) => s[p.Joint].Role is { } r && BodyRoles.Section(r) == BodySection.Hand ? BodyRoles.Side(r) : 'C';
        var mesh = BodySculptor.Sculpt(s, [.. parts.Where(p => SideOf(p) == 'C')], cell, floor);
        foreach (var side in "LR")
        {
            mesh = mesh.With(BodySculptor.Sculpt(s, [.. parts.Where(p => SideOf(p) == side)], cell * 0.36f, null));
        }

        return mesh;
    }

    private sealed class Work(Skeleton s, BodyBuild b)
    {
        /// <summary>Unit of all girths: the stature that fits the legs.</summary>
        private readonly float _h = (Length(s, BodyRole.ThighL, BodyRole.ShinL) + Length(s, BodyRole.ShinL, BodyRole.FootL)) / 0.491f;

        public List<SculptPart> Parts { get; } = [];

        private static float Length(Skeleton s, BodyRole a, BodyRole b) =>
            (s.RestPositions[s.IndexOf(b)] - s.RestPositions[s.IndexOf(a)]).Length();

        private Vector3 P(BodyRole r) => s.RestPositions[s.IndexOf(r)];

        private int J(params BodyRole[] roles) => roles.Select(s.IndexOf).First(i => i >= 0);

        private static BodyRole Role(string stem, char side) => Enum.Parse<BodyRole>(stem + side);

        private Vector3 V(float x, float y, float z) => new Vector3(x, y, z) * _h;

        private void Add(
            int joint,
            Vector3 a,
            Vector3 c,
            float ra,
            float rc,
            Vector3 colour,
            float blend = .022f,
            Vector3? squash = null
        ) => Parts.Add(new SculptPart(joint, a, c, ra * _h, rc * _h, blend * _h, colour, squash ?? Vector3.One));

        public void Trunk()
        {
            var pelvis = P(BodyRole.Pelvis);
            var chest = P(BodyRole.Chest);
            var jp = J(BodyRole.Pelvis);
            var jc = J(BodyRole.Chest);
            var hips = (P(BodyRole.ThighL) + P(BodyRole.ThighR)) / 2;
            Add(
                jp,
                hips + V(-.026f, .008f, -.006f),
                hips + V(.026f, .008f, -.006f),
                .060f * b.Legs,
                .060f * b.Legs,
                b.Trousers,
                .03f,
                new(1.12f, 1.05f, .98f)
            );
            foreach (var x in new[] { -.034f, .034f })
            {
                Add(jp, hips + V(x, -.006f, -.034f), hips + V(x, -.012f, -.034f), .043f * b.Legs, .043f * b.Legs, b.Trousers, .03f);
            }

            var lower = J(BodyRole.SpineLower, BodyRole.SpineMid, BodyRole.SpineUpper, BodyRole.Chest);
            var upper = J(BodyRole.SpineUpper, BodyRole.SpineMid, BodyRole.SpineLower, BodyRole.Chest);
            var waist = Vector3.Lerp(pelvis, chest, .42f);
            Add(
                lower,
                Vector3.Lerp(pelvis, chest, .12f) + V(0, 0, .004f),
                waist + V(0, 0, .006f),
                .058f * b.Belly,
                .057f * b.Belly,
                b.Top,
                .045f,
                new(1.22f, 1, .96f)
            );
            Add(
                upper,
                waist + V(0, 0, .004f),
                Vector3.Lerp(pelvis, chest, .86f) + V(0, 0, .006f),
                .056f * b.Belly,
                .064f * b.Trunk,
                b.Top,
                .045f,
                new(1.24f, 1, .98f)
            );
            Add(
                jc,
                chest + V(-.034f, .012f, .008f),
                chest + V(.034f, .012f, .008f),
                .066f * b.Trunk,
                .066f * b.Trunk,
                b.Top,
                .04f,
                new(1.1f, 1.12f, .98f)
            );
            Add(
                jc,
                chest + V(-.046f * b.Shoulders, .058f, -.002f),
                chest + V(.046f * b.Shoulders, .058f, -.002f),
                .046f * b.Trunk,
                .046f * b.Trunk,
                b.Top,
                .04f
            );
        }

        public void HeadAndNeck()
        {
            var neck = s.IndexOf(BodyRole.Neck) >= 0 ? P(BodyRole.Neck) : Vector3.Lerp(P(BodyRole.Chest), P(BodyRole.Head), .6f);
            var head = P(BodyRole.Head);
            var jh = J(BodyRole.Head);
            var k = b.Head;
            Add(J(BodyRole.Neck, BodyRole.Head), neck + V(0, -.028f, -.006f), head + V(0, .012f, -.004f), .034f, .030f, b.Skin, .026f);
            Add(
                jh,
                head + V(0, .060f * k, .004f),
                head + V(0, .066f * k, -.002f),
                .047f * k,
                .047f * k,
                b.Skin,
                .02f,
                new(.92f, 1.14f, 1.10f)
            );
            Add(
                jh,
                head + V(0, .024f * k, .020f * k),
                head + V(0, .036f * k, .022f * k),
                .026f * k,
                .032f * k,
                b.Skin,
                .026f,
                new(1.08f, 1, 1)
            );
            Add(jh, head + V(0, .040f * k, .056f * k), head + V(0, .052f * k, .050f * k), .007f * k, .005f * k, b.Skin, .012f);
            foreach (var x in new[] { -.045f, .045f })
            {
                Add(
                    jh,
                    head + V(x * k, .046f * k, -.002f),
                    head + V(x * k, .058f * k, -.004f),
                    .007f * k,
                    .009f * k,
                    b.Skin,
                    .008f,
                    new(.6f, 1, 1)
                );
            }

            if (b.Hat == 1)
            {
                Add(
                    jh,
                    head + V(0, .098f * k, .002f),
                    head + V(0, .102f * k, -.004f),
                    .050f * k,
                    .050f * k,
                    b.HatColour,
                    .006f,
                    new(1.08f, .44f, 1.18f)
                );
                Add(
                    jh,
                    head + V(0, .086f * k, .042f * k),
                    head + V(0, .084f * k, .060f * k),
                    .030f * k,
                    .024f * k,
                    b.HatColour,
                    .008f,
                    new(1.15f, .22f, 1)
                );
            }
            else if (b.Hat == 2)
            {
                Add(
                    jh,
                    head + V(0, .062f * k, -.010f),
                    head + V(0, .080f * k, -.014f),
                    .054f * k,
                    .050f * k,
                    b.HatColour,
                    .01f,
                    new(1, 1.1f, 1)
                );
                Add(jh, head + V(0, .095f * k, -.014f), head + V(0, .185f * k, -.058f * k), .044f * k, .006f * k, b.HatColour, .03f);
            }
        }

        public void Arm(char side)
        {
            var sign = side == 'L' ? 1 : -1;
            var shoulder = P(Role("UpperArm", side));
            var elbow = P(Role("Forearm", side));
            var wrist = P(Role("Hand", side));
            var ju = J(Role("UpperArm", side));
            var jf = J(Role("Forearm", side));
            var twistU = s.IndexOf(Role("UpperArmTwist", side)) is >= 0 and var tu ? tu : ju;
            var twistF = s.IndexOf(Role("ForearmTwist", side)) is >= 0 and var tf ? tf : jf;
            var a = b.Arms;
            Add(
                J(Role("Clavicle", side), BodyRole.Chest),
                Vector3.Lerp(P(BodyRole.Chest) + V(0, .074f, 0), shoulder, .35f),
                shoulder + V(-.012f * sign, .008f, 0),
                .034f * b.Shoulders,
                .032f * b.Shoulders,
                b.Top,
                .03f
            );
            Add(
                ju,
                shoulder + V(.004f * sign, .002f, 0),
                Vector3.Lerp(shoulder, elbow, .35f),
                .036f * b.Shoulders,
                .031f * a,
                b.Top,
                .022f
            );
            Add(
                twistU,
                Vector3.Lerp(shoulder, elbow, .3f) + V(0, 0, .003f),
                Vector3.Lerp(shoulder, elbow, .98f),
                .031f * a,
                .0225f * a,
                b.Top,
                .016f
            );
            Add(jf, Vector3.Lerp(elbow, wrist, .02f), Vector3.Lerp(elbow, wrist, .40f), .0235f * a, .0265f * a, b.Skin, .016f);
            Add(
                twistF,
                Vector3.Lerp(elbow, wrist, .36f),
                Vector3.Lerp(elbow, wrist, .99f),
                .0262f * a,
                .0152f * a,
                b.Skin,
                .016f,
                new(1, .94f, 1)
            );
        }

        public void Hand(char side)
        {
            var sign = side == 'L' ? 1 : -1;
            var wrist = P(Role("Hand", side));
            var j = J(Role("Hand", side));
            var k = b.Hands;
            Vector3 At(float x, float y, float z) => wrist + V(x * sign * k, y * k, z * k);
            if (s.IndexOf(Role("Index", side, 1)) >= 0 && s.IndexOf(Role("Thumb", side, 1)) >= 0)
            {
                Fingers(side, k);
                return;
            }

            Add(j, At(.006f, 0, 0), At(.044f, -.002f, 0), .015f * k, .016f * k, b.Skin, .012f, new(1, .62f, 1.45f));
            for (var f = 0; f < 4; f++)
            {
                var z = .0185f - (f * .0122f);
                var length = f switch
                {
                    0 => .036f,
                    1 => .041f,
                    2 => .038f,
                    _ => .029f,
                };
                Add(j, At(.048f, -.001f, z), At(.050f + length, -.009f, z * 1.05f), .0068f * k, .0056f * k, b.Skin, .005f);
            }

            Add(j, At(.010f, -.002f, .014f), At(.036f, -.008f, .038f), .0095f * k, .0075f * k, b.Skin, .010f);
            Add(j, At(.036f, -.008f, .038f), At(.056f, -.010f, .043f), .0075f * k, .0060f * k, b.Skin, .006f);
        }

        /// <summary>A palm, and every finger bone by bone around its joints.</summary>
        private void Fingers(char side, float k)
        {
            var wrist = P(Role("Hand", side));
            var palm = J(Role("Hand", side));
            foreach (var (name, thick) in new[] { ("Index", 1f), ("Middle", 1.02f), ("Ring", .98f), ("Little", .86f) })
            {
                if (s.IndexOf(Role(name, side, 1)) < 0)
                {
                    continue;
                }

                var knuckle = P(Role(name, side, 1));
                Add(palm, Vector3.Lerp(wrist, knuckle, .12f), Vector3.Lerp(wrist, knuckle, .94f), .0098f * k, .0080f * k, b.Skin, .008f);
                Finger(name, side, .0052f * k * thick);
            }

            var saddle = P(Role("Thumb", side, 1));
            // The wrist reaches into the forearm.
            Add(
                palm,
                Vector3.Lerp(wrist, P(Role("Forearm", side)), .05f),
                Vector3.Lerp(wrist, P(Role("Middle", side, 1)), .2f),
                .0138f,
                .0135f * k,
                b.Skin,
                .012f,
                new(1, .85f, 1.1f)
            );
            Add(palm, Vector3.Lerp(wrist, saddle, .2f), saddle, .0105f * k, .0105f * k, b.Skin, .010f);
            Finger("Thumb", side, .0066f * k);
        }

        private void Finger(string name, char side, float thick)
        {
            for (var n = 1; n <= 3; n++)
            {
                var j = s.IndexOf(Role(name, side, n));
                if (j < 0)
                {
                    return;
                }

                var next = n < 3 ? s.IndexOf(Role(name, side, n + 1)) : -1;
                var end = next >= 0 ? s.RestPositions[next] : s.RestPositions[j] + (s[j].EndSite ?? s[j].Offset * .8f);
                // The last bone is as long as its nail: the round end is inside it.
                var to = next >= 0 ? end : Vector3.Lerp(s.RestPositions[j], end, .82f);
                Add(j, s.RestPositions[j], to, thick * (1.06f - (.09f * n)), thick * (1f - (.09f * n)), b.Skin, .0025f);
            }
        }

        private static BodyRole Role(string finger, char side, int joint) => Enum.Parse<BodyRole>($"{finger}{side}{joint}");

        public void Leg(char side)
        {
            var sign = side == 'L' ? 1 : -1;
            var hip = P(Role("Thigh", side));
            var knee = P(Role("Shin", side));
            var ankle = P(Role("Foot", side));
            var jt = J(Role("Thigh", side));
            var js = J(Role("Shin", side));
            var jf = J(Role("Foot", side));
            var g = b.Legs;
            Add(
                jt,
                hip + V(.006f * sign, -.012f, 0),
                Vector3.Lerp(hip, knee, .55f) + V(.002f * sign, 0, .004f),
                .051f * g,
                .043f * g,
                b.Trousers,
                .018f
            );
            Add(jt, Vector3.Lerp(hip, knee, .5f) + V(0, 0, .004f), knee + V(0, .012f, .004f), .044f * g, .0315f * g, b.Trousers, .016f);
            Add(js, knee + V(0, 0, .004f), Vector3.Lerp(knee, ankle, .32f) + V(0, 0, -.008f), .0305f * g, .0345f * g, b.Trousers, .016f);
            Add(
                js,
                Vector3.Lerp(knee, ankle, .3f) + V(0, 0, -.008f),
                ankle + V(0, .010f, -.002f),
                .034f * g,
                .0205f * g,
                b.Trousers,
                .016f
            );
            if (b.Coat > 0)
            {
                var hem = Vector3.Lerp(hip, knee, b.Coat);
                Add(
                    jt,
                    hip + V(-.004f * sign, .02f, -.004f),
                    hem + V(.010f * sign, 0, -.004f),
                    .060f,
                    .066f,
                    b.Top,
                    .03f,
                    new(1.05f, 1, 1.1f)
                );
            }

            var toes = s.IndexOf(Role("Toes", side)) >= 0 ? P(Role("Toes", side)) : ankle + V(0, -.03f, .076f);
            var jo = J(Role("Toes", side), Role("Foot", side));
            Add(jf, ankle + V(0, 0, -.004f), ankle + V(0, -.012f, -.004f), .0225f, .024f, b.Shoes, .014f);
            Add(jf, ankle + V(0, -.020f, -.022f), toes + V(0, .000f, -.006f), .0215f, .0185f, b.Shoes, .016f, new(1.08f, .95f, 1));
            Add(
                jo,
                toes + V(-.002f * sign, -.001f, 0),
                toes + V(-.003f * sign, -.002f, .030f),
                .0195f,
                .0155f,
                b.Shoes,
                .012f,
                new(1.18f, .82f, 1)
            );
        }
    }
}
