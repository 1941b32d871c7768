using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>How far each part that can be held is from where the performer's own place puts it.</summary>
public static class HoldDrift
{
    /// <summary>A value a frame, millimetres, for each part both skeletons have.</summary>
    /// <param name="source">The performer's motion.</param>
    /// <param name="played">The character's.</param>
    /// <param name="setup">As it was retargeted.</param>
    /// <param name="ground">As the report of the retarget has it, metres.</param>
    public static Dictionary<BodyRole, float[]> Of(Motion source, Motion played, RetargetSetup setup, float ground)
    {
        var goals = new BodyGoals(source, played.Skeleton, setup, ForwardKinematics.WorldPositions(source), ground);
        var turns = new Quaternion[played.Rotations.Length];
        var places = ForwardKinematics.WorldPositions(played, turns);
        return Of(goals, played.Skeleton, places, turns, Math.Min(source.FrameCount, played.FrameCount));
    }

    internal static Dictionary<BodyRole, float[]> Of(BodyGoals goals, Skeleton target, Vector3[] places, Quaternion[] turns, int frames)
    {
        var drift = new Dictionary<BodyRole, float[]>();
        foreach (var role in RetargetSetup.Held.Where(r => target.IndexOf(r) >= 0))
        {
            var joint = target.IndexOf(role);
            var values = drift[role] = new float[frames];
            for (var f = 0; f < frames; f++)
            {
                var at = (f * target.Count) + joint;
                values[f] = Vector3.Distance(places[at], goals.Held(f, role, turns[at])) * 1000;
            }
        }

        return drift;
    }
}
