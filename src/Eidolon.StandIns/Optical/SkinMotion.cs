using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Optical;

/// <summary>
/// What skin, straps and suit add to one marker over a take: a damped mass that its bone drags along, a muscle that lifts it as the joint bends,
/// a strap that creeps along the bone, a limb of the suit that shifts once and stays.
/// </summary>
internal sealed class SkinMotion
{
    /// <summary>No flesh leaves its bone farther than this, metres.</summary>
    private const float Farthest = 0.014f;

    /// <summary>Seconds in which a suit's limb shifts.</summary>
    private const float ShiftSeconds = 0.25f;

    private readonly Skin _skin;
    private readonly float _flesh;
    private readonly float _frequency;
    private readonly Vector3 _outward;
    private readonly Vector3 _along;
    private readonly Vector3 _shift;
    private readonly float _shiftAt;
    private readonly float _creep;

    /// <param name="role">The bone that carries the marker.</param>
    /// <param name="offset">Its place in the bone's frame, metres.</param>
    /// <param name="along">The bone's own direction, in its frame.</param>
    /// <param name="limb">Draws what markers of one limb share: when and how its suit shifts.</param>
    /// <param name="own">Draws what belongs to this marker alone.</param>
    public SkinMotion(Skin skin, BodyRole role, Vector3 offset, Vector3 along, Random limb, Random own)
    {
        _skin = skin;
        _along = along.LengthSquared() > 0 ? Vector3.Normalize(along) : Vector3.UnitY;
        var across = offset - (_along * Vector3.Dot(offset, _along));
        _outward = across.LengthSquared() > 1e-8f ? Vector3.Normalize(across) : Vector3.Zero;
        _flesh = Flesh(role) * (0.6f + (0.8f * own.NextSingle()));
        _frequency = 6 + (5 * own.NextSingle());
        _creep = own.NextSingle() < 0.4f ? own.NextSingle() : 0;
        _shiftAt = 0.2f + (0.6f * limb.NextSingle());
        _shift =
            ((_along * ((limb.NextSingle() * 2) - 1)) + (Vector3.Cross(_along, _outward) * ((limb.NextSingle() * 2) - 1)))
            * skin.Shift
            * 0.7f;
    }

    /// <summary>What is added to a marker, in the bone's frame, a frame each.</summary>
    /// <param name="carried">The marker as its bone alone would carry it, world, metres.</param>
    /// <param name="turns">World turns of the bone.</param>
    /// <param name="bends">How far the joint beside it is bent, 0 to 1.</param>
    public Vector3[] Follow(ReadOnlySpan<Vector3> carried, ReadOnlySpan<Quaternion> turns, ReadOnlySpan<float> bends, double rate)
    {
        var result = new Vector3[carried.Length];
        var (x, v) = (Vector3.Zero, Vector3.Zero);
        var omega = MathF.Tau * _frequency;
        const float damping = 0.28f;
        const int parts = 16;
        var dt = (float)(1 / rate / parts);
        for (var f = 0; f < result.Length; f++)
        {
            var pull =
                f > 0 && f + 1 < carried.Length
                    ? (carried[f + 1] - (2 * carried[f]) + carried[f - 1]) * (float)(rate * rate)
                    : Vector3.Zero;
            for (var k = 0; k < parts; k++)
            {
                v += ((-pull * _skin.Wobble * _flesh) - (x * omega * omega) - (v * 2 * damping * omega)) * dt;
                x += v * dt;
            }

            var size = x.Length();
            var swing = size > 1e-9f ? x * (Farthest * MathF.Tanh(size / Farthest) / size) : Vector3.Zero;
            var share = f / (float)Math.Max(1, result.Length - 1);
            var shifted = Math.Clamp((share - _shiftAt) * (float)(carried.Length / rate) / ShiftSeconds, 0, 1);
            result[f] =
                Vector3.Transform(swing, Quaternion.Conjugate(turns[f]))
                + (_outward * _skin.Bulge * _flesh * bends[f])
                - (_along * _skin.Creep * _creep * share)
                + (_shift * (shifted * shifted * (3 - (2 * shifted))));
        }

        return result;
    }

    /// <summary>How soft what lies under a marker is: 1 for a thigh, little over bone.</summary>
    private static float Flesh(BodyRole role) =>
        BodyRoles.Stem(role) switch
        {
            "Thigh" => 1,
            "UpperArm" => 0.8f,
            "Shin" => 0.5f,
            "Forearm" => 0.35f,
            "Chest" or "Pelvis" or "SpineLower" or "SpineMid" or "SpineUpper" => 0.4f,
            "Clavicle" => 0.3f,
            _ => 0.12f,
        };
}
