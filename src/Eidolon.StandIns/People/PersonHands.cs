using System.Numerics;
using Eidolon.Core.Hands;

namespace Eidolon.StandIns.People;

/// <summary>The true hands of a person: fingers longer or shorter each for itself, knuckles not quite where the average has them.</summary>
internal static class PersonHands
{
    public static HandShape Of(Person person, char side)
    {
        var random = new Random((person.Seed * 53) + side);
        float Off() => (2 * random.NextSingle()) - 1;
        var average = HandShape.Average(side, HandShape.LengthShare * person.Stature);
        return average with
        {
            Fingers =
            [
                .. average.Fingers.Select(f =>
                    f.Scaled(1 + (0.07f * Off())) with
                    {
                        Base = f.Base + (new Vector3(Off(), Off(), Off()) * 0.003f),
                    }
                ),
            ],
        };
    }

    /// <summary>By how much the last joint of a person's fingers follows the middle one.</summary>
    public static float Follows(Person person) => 0.55f + (0.3f * new Random(person.Seed * 59).NextSingle());
}
