namespace Eidolon.StandIns.Devices;

/// <summary>
/// Where the stand-ins are in their scene. All devices count from the same moment of the time of day, so what they send at one moment shows one
/// moment of the scene; devices in processes of their own count from midnight of the epoch and are in step as well.
/// </summary>
public sealed class SceneClock
{
    /// <summary>Seconds; scenes begin on a beat and last whole beats, a whole number of frames for every device (30, 60, 100 and 120 a second).</summary>
    public const double Beat = 0.1;

    private double _began;

    /// <summary>When the scene began, seconds since the epoch.</summary>
    public double Began => Volatile.Read(ref _began);

    /// <summary>The scene begins anew on the next beat.</summary>
    /// <param name="time">Now, seconds since the epoch.</param>
    public void Begin(double time) => Volatile.Write(ref _began, Math.Ceiling(time / Beat) * Beat);

    /// <summary>Seconds a scene lasts before it is gone back through.</summary>
    public static double Loop(double seconds) => Math.Max(Beat, Math.Floor((seconds / Beat) + 1e-6) * Beat);

    /// <summary>At its end a scene is gone back through to its beginning, and so on: nobody is from one frame to the next where they were not.</summary>
    /// <returns>Seconds from the beginning of the scene, and whether it is gone back through.</returns>
    private (double Place, bool Back) At(double time, double loop)
    {
        var place = Math.Max(0, time - Began) % (2 * loop);
        return place > loop ? ((2 * loop) - place, true) : (place, false);
    }

    /// <summary>The scene is gone back through at a time: what turned to the left turns to the right.</summary>
    /// <param name="seconds">How long the scene lasts.</param>
    public bool Back(double time, double seconds) => At(time, Loop(seconds)).Back;

    /// <summary>The frame a device shows at a time.</summary>
    /// <param name="time">Seconds since the epoch.</param>
    /// <param name="seconds">How long the scene lasts.</param>
    /// <param name="rate">Frames a second of the device.</param>
    /// <param name="frames">How many it has.</param>
    public int Frame(double time, double seconds, double rate, int frames) =>
        (int)Math.Clamp(Math.Round(At(time, Loop(seconds)).Place * rate), 0, frames - 1);
}
