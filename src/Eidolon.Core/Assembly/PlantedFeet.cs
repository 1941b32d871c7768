using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>When each foot of a motion stands, on its heel or its toes.</summary>
internal sealed class PlantedFeet
{
    private readonly bool[] _left;
    private readonly bool[] _right;

    private PlantedFeet(bool[] left, bool[] right) => (_left, _right) = (left, right);

    /// <param name="clip">With what a person has decided about its contacts.</param>
    public static PlantedFeet Of(ClipMotion clip)
    {
        var feet = new PlantedFeet(new bool[clip.Motion.FrameCount], new bool[clip.Motion.FrameCount]);
        foreach (var c in BodyContacts.Find(clip.Motion, clip.Contacts).Joints)
        {
            feet.Of(BodyRoles.Side(c.Role)).AsSpan(Math.Max(0, c.Start)..(Math.Min(clip.Motion.FrameCount - 1, c.End) + 1)).Fill(true);
        }

        return feet;
    }

    /// <summary>Frame by frame.</summary>
    public bool[] Of(char side) => side == 'L' ? _left : _right;

    /// <summary>The foot that stands longest in both over an overlap, if one stands for most of it.</summary>
    public BodyRole? Standing(PlantedFeet next, int start, int length)
    {
        int Common(char side) => Enumerable.Range(0, length).Count(k => Of(side)[start + k] && next.Of(side)[k]);
        var (l, r) = (Common('L'), Common('R'));
        return Math.Max(l, r) * 2 < length ? null
            : l >= r ? BodyRole.FootL
            : BodyRole.FootR;
    }
}
