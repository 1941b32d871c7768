namespace Eidolon.Core.Skeletons;

/// <summary>An anatomical place; joints of any rig play one of these roles or none.</summary>
public enum BodyRole
{
    Root, Pelvis, SpineLower, SpineMid, SpineUpper, Chest, NeckLower, Neck, Head, Jaw, EyeL, EyeR,
    ClavicleL, UpperArmL, UpperArmTwistL, ForearmL, ForearmTwistL, HandL,
    ThumbL1, ThumbL2, ThumbL3, IndexL1, IndexL2, IndexL3, MiddleL1, MiddleL2, MiddleL3,
    RingL1, RingL2, RingL3, LittleL1, LittleL2, LittleL3,
    ClavicleR, UpperArmR, UpperArmTwistR, ForearmR, ForearmTwistR, HandR,
    ThumbR1, ThumbR2, ThumbR3, IndexR1, IndexR2, IndexR3, MiddleR1, MiddleR2, MiddleR3,
    RingR1, RingR2, RingR3, LittleR1, LittleR2, LittleR3,
    ThighL, ShinL, FootL, ToesL, ThighR, ShinR, FootR, ToesR,
}
