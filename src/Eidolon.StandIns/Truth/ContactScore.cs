using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Truth;

/// <summary>Found contacts of feet against where they truly stood.</summary>
public static class ContactScore
{
    /// <summary>Said where a stand was not found at all, seconds.</summary>
    public const double Missed = 9.999;

    /// <summary>
    /// How much too late each beginning and each end was found, seconds. A foot stands from its heel's or toes' first moment to the last of
    /// either.
    /// </summary>
    public static IEnumerable<double> Misses(Performance.Actor actor)
    {
        var rate = actor.Motion.FrameRate;
        var found = BodyContacts.Find(actor.Motion).Points;
        foreach (var plant in actor.Plants)
        {
            var own = found
                .Where(c =>
                    c.Point is ContactPoint.Heel or ContactPoint.Toe
                    && c.Side == BodyRoles.Side(plant.Foot)
                    && c.Start <= plant.End
                    && c.End >= plant.Start
                )
                .ToArray();
            yield return own.Length == 0 ? Missed : (own.Min(c => c.Start) - plant.Start) / rate;
            yield return own.Length == 0 ? Missed : (own.Max(c => c.End) - plant.End) / rate;
        }
    }
}
