namespace Eidolon.StandIns.People;

/// <summary>People nobody has tuned anything to: statures of 1.1 to 2.05 m, every limb's share off by up to 12 %, sides unequal by up to 6 mm.</summary>
public static class Strangers
{
    private const float Smallest = 1.10f,
        Tallest = 2.05f,
        Spread = 0.12f;

    /// <summary>So many people, evenly from the smallest to the tallest.</summary>
    public static IReadOnlyList<Person> Some(int count, int seed) =>
        [
            .. Enumerable
                .Range(0, count)
                .Select(i => new Person(
                    $"Stranger {i + 1}",
                    Smallest + ((Tallest - Smallest) * (count > 1 ? i / (float)(count - 1) : 0.5f)),
                    1,
                    (seed * 101) + (i * 17),
                    Spread
                )),
        ];
}
