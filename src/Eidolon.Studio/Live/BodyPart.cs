using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Live;

/// <summary>What of a performer is tracked live.</summary>
public enum BodyPart
{
    Whole,
    Upper,
    ArmsAndHead,
}

/// <summary>Which markers belong to a part.</summary>
public static class BodyParting
{
    public static bool Has(this BodyPart part, BodyRole role)
    {
        var leg = BodyRoles.Section(role) == BodySection.Leg;
        return part switch
        {
            BodyPart.Whole => true,
            BodyPart.Upper => !leg,
            _ => !leg && role is not (BodyRole.Pelvis or BodyRole.SpineLower or BodyRole.SpineUpper),
        };
    }
}
