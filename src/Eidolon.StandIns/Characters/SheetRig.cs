using System.Numerics;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>Where a joint stands on the character sheet: its role (without a side) and centimetres up, out to the left, ahead.</summary>
internal readonly record struct SheetJoint(string Role, string? Parent, float Up, float Out, float Ahead);

/// <summary>Makes a body of roles from the character sheet; the sheet's arms hang, the file's are level.</summary>
internal static class SheetRig
{
    private static readonly string[] Arm = ["UpperArm", "Forearm", "Hand"];

    /// <param name="sheet">Middle joints first; then those of a side.</param>
    /// <param name="hand">Length of the hand, centimetres.</param>
    /// <param name="curl">How far each finger joint is bent at rest, radians.</param>
    public static Skeleton Body(IReadOnlyList<SheetJoint> sheet, float hand, float curl)
    {
        var joints = new List<Joint>();
        var places = new Dictionary<string, Vector3>(StringComparer.Ordinal);
        void Add(string name, string? parent, Vector3 at, Vector3? end)
        {
            places[name] = at;
            var p = parent is null ? -1 : joints.FindIndex(j => j.Name == parent);
            joints.Add(new Joint(name, p, parent is null ? at : at - places[parent]) { Role = Enum.Parse<BodyRole>(name), EndSite = end });
        }

        foreach (var j in sheet.Where(j => !IsSide(j)))
        {
            Add(j.Role, j.Parent, At(j, 'C'), j.Role == "Head" ? new Vector3(0, .18f, 0) : null);
        }

        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1f : -1f;
            foreach (var j in sheet.Where(IsSide))
            {
                var parent = IsSide(sheet.First(p => p.Role == j.Parent)) ? j.Parent + side : j.Parent!;
                var at = At(j, side);
                if (Array.IndexOf(Arm, j.Role) > 0)
                {
                    // Level: as long as it hangs, straight out from the shoulder.
                    var length = (At(j, side) - At(sheet.First(p => p.Role == j.Parent), side)).Length();
                    at = places[parent] + new Vector3(sign * length, 0, 0);
                }

                var end = j.Role == "Toes" ? new Vector3(0, -.005f, .07f) : (Vector3?)null;
                Add(j.Role + side, parent, at, end);
            }
        }

        return Curl(
            HandSkeleton.With(new Skeleton(joints), HandShape.Average('L', hand * .01f), HandShape.Average('R', hand * .01f)),
            curl
        );
    }

    private static bool IsSide(SheetJoint j) => j.Out != 0;

    private static Vector3 At(SheetJoint j, char side) => new Vector3(side == 'R' ? -j.Out : j.Out, j.Up, j.Ahead) * .01f;

    /// <summary>Fingers a little bent at rest, so that hands nobody moves do not look like paddles; the turns go into the offsets.</summary>
    private static Skeleton Curl(Skeleton s, float curl)
    {
        var joints = s.Joints.ToArray();
        for (var j = 0; j < joints.Length; j++)
        {
            if (joints[j].Role is not { } role || !BodyRoles.IsFinger(role))
            {
                continue;
            }

            var name = role.ToString();
            var number = name[^1] - '0';
            var sign = name[^2] == 'L' ? -1f : 1f;
            var share = name.StartsWith("Thumb", StringComparison.Ordinal) ? .5f : 1;
            // Knuckles stand where they stand; what hangs on them is bent about the axis ahead.
            // A thumb at ease lies nearer to the palm than a stretched one.
            var ease = share < 1 ? Quaternion.CreateFromAxisAngle(Vector3.UnitY, sign * -.34f) : Quaternion.Identity;
            Quaternion Bent(int times) => ease * Quaternion.CreateFromAxisAngle(Vector3.UnitZ, sign * curl * share * times);
            if (number > 1)
            {
                joints[j] = joints[j] with { Offset = Vector3.Transform(joints[j].Offset, Bent(number - 1)) };
            }

            if (joints[j].EndSite is { } end)
            {
                joints[j] = joints[j] with { EndSite = Vector3.Transform(end, Bent(number)) };
            }
        }

        return new Skeleton(joints);
    }
}
