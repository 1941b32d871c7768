using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Binding;

/// <summary>Finds the joints of a body that stands on the origin and faces +Z, from its own shape.</summary>
/// <param name="tall">From the floor to the highest vertex, metres.</param>
internal sealed class PlacedBody(BodyVolume volume, float tall)
{
    private readonly BodySlices _slices = new(volume);
    private readonly Dictionary<BodyRole, Vector3> _places = [];
    private readonly Dictionary<BodyRole, Vector3> _ends = [];

    /// <summary>Shares of the stature after <see cref="Anthropometry"/>.</summary>
    private const float NeckShare = .862f,
        HipShare = .53f,
        AnkleShare = .042f;

    public List<string> Doubts { get; } = [];

    /// <summary>Joints and ends of last bones, metres.</summary>
    /// <exception cref="RefusedException">It has not the limbs of a person.</exception>
    public (Dictionary<BodyRole, Vector3> Places, Dictionary<BodyRole, Vector3> Ends) Find()
    {
        var neck = Neck();
        // A hat is no part of the stature: the neck tells it.
        var stature = neck.Y / NeckShare;
        Legs(stature);
        Spine(neck, stature);
        foreach (var arm in ArmLine.Find(volume, neck, stature))
        {
            Arm(arm, stature);
        }

        return (_places, _ends);
    }

    /// <summary>Where the middle of the body is thinnest below the head and above the shoulders.</summary>
    private Vector3 Neck()
    {
        var (least, at) = (int.MaxValue, Vector3.Zero);
        for (var y = .74f * tall; y < .92f * tall; y += volume.Cell)
        {
            if (Middle(y) is { } slice && slice.Cells < least && slice.High.X - slice.Low.X > .03f * tall)
            {
                (least, at) = (slice.Cells, slice.Middle with { Y = y });
            }
        }

        return least < int.MaxValue
            ? at with
            {
                X = 0,
            }
            : throw new RefusedException("the mesh has no neck: between four fifths of its height and its top nothing is at its middle");
    }

    private BodySlice? Middle(float y) => _slices.At(y).Where(s => s.Central).MaxBy(s => s.Cells);

    private void Legs(float stature)
    {
        // From below: as long as nothing is at the middle the legs are apart.
        var crotch = .10f * stature;
        while (crotch < .60f * stature && Middle(crotch) is null)
        {
            crotch += volume.Cell;
        }

        if (crotch >= .60f * stature)
        {
            throw new RefusedException("the mesh has no trunk between its legs and its neck");
        }

        var hip = (crotch + ((HipShare + .055f) * stature)) / 2;
        if (crotch is var c && (c < .42f * stature || c > .54f * stature))
        {
            Doubts.Add("what the legs wear hides where they part: the hips are placed by average proportions");
            hip = HipShare * stature;
        }

        foreach (var (side, sign) in new[] { ('L', 1), ('R', -1) })
        {
            var ankle = Leg(sign, AnkleShare * stature + .012f * stature, stature) with { Y = AnkleShare * stature };
            var knee = Leg(sign, (hip + ankle.Y) / 2, stature);
            var thigh = Leg(sign, MathF.Min(hip, crotch) - (.05f * stature), stature);
            // The thigh's middle line comes in a little on its way up, never to the middle of the body.
            var x = Math.Clamp(MathF.Abs(thigh.X) * .95f, .035f * stature, .07f * stature);
            var trunk = Middle(hip)?.Middle.Z ?? thigh.Z;
            Put("Thigh", side, new Vector3(sign * x, hip, (trunk + thigh.Z) / 2));
            Put("Shin", side, knee with { Z = knee.Z + (.003f * stature) });
            var (heel, toe, middle) = Foot(sign, stature, ankle.X);
            ankle.Z = Math.Clamp(ankle.Z, heel + (.18f * (toe - heel)), heel + (.42f * (toe - heel)));
            Put("Foot", side, ankle);
            var ball = heel + (.72f * (toe - heel));
            Put(
                "Toes",
                side,
                new Vector3(((ankle.X * .45f) + (middle * .55f)), .014f * stature, MathF.Max(ball, ankle.Z + (.03f * stature)))
            );
            _ends[Role("Toes", side)] = new Vector3(middle, .010f * stature, toe);
        }
    }

    /// <summary>The middle of one leg at a height; where both are one piece, of its half.</summary>
    private Vector3 Leg(int sign, float y, float stature)
    {
        var slices = _slices.At(y).Where(s => s.Cells > 6).ToList();
        var own = slices
            .Where(s => !s.Central && s.Middle.X * sign > 0 && MathF.Abs(s.Middle.X) < .17f * stature)
            .OrderByDescending(s => s.Cells)
            .FirstOrDefault();
        if (own is not null)
        {
            return own.Middle with { Y = y };
        }

        return Middle(y) is { } both
            ? new Vector3(sign * MathF.Min(.055f * stature, (both.High.X - both.Low.X) / 4), y, both.Middle.Z)
            : throw new RefusedException($"the mesh has no {(sign > 0 ? "left" : "right")} leg at {y / tall * 100:0} % of its height");
    }

    /// <summary>Heel, tip and middle of one foot on the floor.</summary>
    private (float Heel, float Toe, float X) Foot(int sign, float stature, float x)
    {
        var (heel, toe, sum, count) = (float.PositiveInfinity, float.NegativeInfinity, 0f, 0);
        for (var y = volume.Cell; y < .03f * stature; y += volume.Cell)
        {
            foreach (var s in _slices.At(y).Where(s => s.Middle.X * sign > 0 && MathF.Abs(s.Middle.X - x) < .09f * stature))
            {
                (heel, toe) = (MathF.Min(heel, s.Low.Z), MathF.Max(toe, s.High.Z));
                (sum, count) = (sum + (s.Middle.X * s.Cells), count + s.Cells);
            }
        }

        return count > 0
            ? (heel, toe, sum / count)
            : throw new RefusedException($"the mesh has no {(sign > 0 ? "left" : "right")} foot on the floor");
    }

    private void Spine(Vector3 neck, float stature)
    {
        var hips = (_places[BodyRole.ThighL] + _places[BodyRole.ThighR]) / 2;
        var pelvis = hips with { X = 0, Y = hips.Y + (.015f * stature) };
        var foot = neck with { Y = neck.Y - (.030f * stature) };
        Vector3 On(float share)
        {
            var at = Vector3.Lerp(pelvis, foot, share);
            // The spine lies behind the middle of the trunk.
            return Middle(at.Y) is { } slice ? at with { Z = slice.Middle.Z - (.10f * (slice.High.Z - slice.Low.Z)) } : at;
        }

        _places[BodyRole.Pelvis] = pelvis;
        _places[BodyRole.SpineLower] = On(.14f);
        _places[BodyRole.SpineUpper] = On(.385f);
        _places[BodyRole.Chest] = On(.635f);
        _places[BodyRole.Neck] = foot;
        _places[BodyRole.Head] = new Vector3(0, neck.Y + (.022f * stature), neck.Z + (.008f * stature));
        _ends[BodyRole.Head] = new Vector3(0, MathF.Max(tall, .98f * stature), neck.Z + (.012f * stature));
    }

    private void Arm(ArmLine arm, float stature)
    {
        var side = arm.Side;
        Put("UpperArm", side, arm.Shoulder);
        Put("Forearm", side, arm.Elbow);
        Put("Hand", side, arm.Wrist);
        _ends[Role("Hand", side)] = arm.Tip;
        var sign = side == 'L' ? 1 : -1;
        var neck = _places[BodyRole.Neck];
        Put(
            "Clavicle",
            side,
            new Vector3(
                sign * .014f * stature,
                MathF.Min(arm.Shoulder.Y - (.004f * stature), neck.Y - (.008f * stature)),
                neck.Z + (.012f * stature)
            )
        );
    }

    private void Put(string stem, char side, Vector3 place) => _places[Role(stem, side)] = place;

    private static BodyRole Role(string stem, char side) => Enum.Parse<BodyRole>(stem + side);
}
