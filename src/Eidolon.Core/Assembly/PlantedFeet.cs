using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>When each foot of a motion stands, on its heel or its toes.</summary>
internal sealed class PlantedFeet
{
    private readonly Dictionary<BodyRole, bool[]> _stands;

    private PlantedFeet(int frames) =>
        _stands = new[] { BodyRole.FootL, BodyRole.ToesL, BodyRole.FootR, BodyRole.ToesR }.ToDictionary(r => r, _ => new bool[frames]);

    /// <param name="clip">With what a person has decided about its contacts.</param>
    public static PlantedFeet Of(ClipMotion clip)
    {
        var frames = clip.Motion.FrameCount;
        var feet = new PlantedFeet(frames);
        foreach (var c in BodyContacts.Find(clip.Motion, clip.Contacts).Joints)
        {
            if (feet._stands.TryGetValue(c.Role, out var stands))
            {
                stands.AsSpan(Math.Max(0, c.Start)..(Math.Min(frames - 1, c.End) + 1)).Fill(true);
            }
        }

        return feet;
    }

    /// <summary>None that stands.</summary>
    public static PlantedFeet Nowhere(int frames) => new(frames);

    /// <summary>Of a stretch of a motion, found with so many frames around it.</summary>
    public static PlantedFeet Of(Motion motion, int start, int length, int around)
    {
        var from = Math.Max(0, start - around);
        var found = Of(new ClipMotion(MotionEdits.Range(motion, from, Math.Min(motion.FrameCount, start + length + around))));
        var feet = new PlantedFeet(length);
        foreach (var (role, stands) in found._stands)
        {
            feet._stands[role] = stands[(start - from)..(start - from + length)];
        }

        return feet;
    }

    /// <summary>Wherever they stand in one or the other of two equally long.</summary>
    public PlantedFeet Or(PlantedFeet other)
    {
        var feet = new PlantedFeet(_stands[BodyRole.FootL].Length);
        foreach (var (role, stands) in _stands)
        {
            feet._stands[role] = [.. stands.Zip(other._stands[role], (a, b) => a || b)];
        }

        return feet;
    }

    /// <summary>Heel or toes by themselves, frame by frame.</summary>
    /// <param name="role">A foot or its toes.</param>
    public bool[] Of(BodyRole role) => _stands[role];

    /// <summary>Heel or toes of a side, frame by frame.</summary>
    public bool[] Of(char side)
    {
        var (heel, toes) = side == 'L' ? (BodyRole.FootL, BodyRole.ToesL) : (BodyRole.FootR, BodyRole.ToesR);
        return [.. _stands[heel].Zip(_stands[toes], (h, t) => h || t)];
    }

    /// <summary>The foot that stands longest in both over an overlap, if one stands for most of it.</summary>
    public BodyRole? Standing(PlantedFeet next, int start, int length)
    {
        int Common(char side)
        {
            var (mine, its) = (Of(side), next.Of(side));
            return Enumerable.Range(0, length).Count(k => mine[start + k] && its[k]);
        }

        var (l, r) = (Common('L'), Common('R'));
        return Math.Max(l, r) * 2 < length ? null
            : l >= r ? BodyRole.FootL
            : BodyRole.FootR;
    }
}
