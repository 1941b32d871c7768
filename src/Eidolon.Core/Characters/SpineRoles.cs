using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Which spine joints play which spine role, however many there are: the lowest and the chest first.</summary>
internal static class SpineRoles
{
    public static IEnumerable<(BodyRole Role, int Joint)> Spread(IReadOnlyList<int> joints)
    {
        var n = joints.Count;
        if (n == 0)
        {
            yield break;
        }

        if (n > 1)
        {
            yield return (BodyRole.SpineLower, joints[0]);
        }

        if (n > 3)
        {
            yield return (BodyRole.SpineMid, joints[(n - 1) / 3]);
        }

        if (n > 2)
        {
            yield return (BodyRole.SpineUpper, joints[n > 3 ? 2 * (n - 1) / 3 : 1]);
        }

        yield return (BodyRole.Chest, joints[n - 1]);
    }
}
