namespace Eidolon.StandIns.People;

/// <summary>The performers of Harbour Lights.</summary>
public static class HarbourCast
{
    public static Person Ines { get; } = new("Ines", 1.71f, 1.0f, 11);

    public static Person Tobi { get; } = new("Tobi", 1.86f, 1.06f, 23);

    public static Person Find(string name) => name.Equals("Tobi", StringComparison.OrdinalIgnoreCase) ? Tobi : Ines;
}
