namespace Eidolon.Core.Formats;

/// <summary>What a person corrects when a file is brought in.</summary>
/// <param name="Scale">Lengths are multiplied by this after the file was read as it says itself.</param>
/// <param name="Up">The axis that is upright in what was read: Y, Z or X, or one of them that points down, as -Z.</param>
/// <param name="LeftHanded">Its axes are left-handed: one of them is turned round, so that left is left again.</param>
/// <param name="Rate">Frames a second when the file's own figure is wrong; the frames stay as they are.</param>
/// <param name="OldPrefix">Names that begin with this and a colon …</param>
/// <param name="NewPrefix">… begin with this instead; nothing takes the prefix off.</param>
/// <param name="Subjects">Prefixes to bring in; all when null. An empty text stands for names without a prefix.</param>
/// <param name="LensDegrees">How wide the lens of a film sees that came without a camera file.</param>
/// <param name="ShotTooFast">A film in slow motion was shot this many times faster than it plays.</param>
public sealed record ImportSettings(
    double Scale = 1,
    string Up = "Y",
    double? Rate = null,
    string? OldPrefix = null,
    string? NewPrefix = null,
    IReadOnlyList<string>? Subjects = null,
    bool LeftHanded = false,
    double LensDegrees = ImportedFilms.UsualAngle,
    double ShotTooFast = 1
)
{
    /// <summary>What may be upright.</summary>
    public static IReadOnlyList<string> Axes { get; } = ["Y", "Z", "X", "-Y", "-Z", "-X"];

    /// <exception cref="RefusedException">A figure that cannot be; says which.</exception>
    public ImportSettings Checked()
    {
        if (Scale is not (>= 1e-6 and <= 1e6))
        {
            throw new RefusedException("the unit must lie between a millionth and a million");
        }

        if (!Axes.Contains(Up))
        {
            throw new RefusedException($"'{Up}' is no axis: {string.Join(", ", Axes)}");
        }

        if (Rate is { } r && !FrameRates.IsUsable(r))
        {
            throw new RefusedException("the rate must lie between 1 and 10000 frames a second");
        }

        return this;
    }
}
