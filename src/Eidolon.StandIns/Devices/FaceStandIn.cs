namespace Eidolon.StandIns.Devices;

/// <summary>The stand-in face tracker: a weight for each action unit of the Facial Action Coding System, left and right apart, at 60 frames a second.</summary>
/// <remarks>Units after Ekman &amp; Friesen, "Facial Action Coding System", 1978.</remarks>
public sealed class FaceStandIn : StandInDevice
{
    private static readonly int[] Sided = [1, 2, 4, 5, 6, 7, 9, 10, 11, 12, 13, 14, 15, 16, 20, 43];
    private static readonly int[] Middle = [17, 18, 22, 23, 24, 25, 26, 27, 28, 51, 52, 53, 54];

    /// <summary>Names in the order they are sent.</summary>
    public static IReadOnlyList<string> Names { get; } =
    [.. Sided.SelectMany(u => new[] { $"AU{u:00}L", $"AU{u:00}R" }), .. Middle.Select(u => $"AU{u:00}")];

    public override DeviceKind Kind => DeviceKind.Face;

    public override double Rate => 60;

    public override double ClockAhead => 0.004;

    public override byte? Battery(double seconds) => (byte)Math.Clamp(88 - (seconds / 60), 1, 100);

    public override int Payload(int source, double time, Span<byte> payload)
    {
        var t = Math.Max(0, time - Scenes.Began);
        Span<float> w = stackalloc float[Names.Count];
        for (var i = 0; i < w.Length; i++)
        {
            // Small lively moves; the right side follows the left closely, never exactly.
            var unit = i < Sided.Length * 2 ? i / 2 : i;
            var side = i < Sided.Length * 2 ? (i % 2) * 0.06 : 0;
            w[i] = (float)
                Math.Clamp(
                    (0.10 * Math.Sin((t * (0.5 + (0.13 * unit))) + unit + side))
                        + (0.05 * Math.Sin((t * 2.3) + (unit * 1.7) + side))
                        + 0.06,
                    0,
                    1
                );
        }

        // Blinks (43) and the talking jaw (25, 26).
        var blink = Math.Max(0, 1 - (Math.Abs((t % 3.4) - 0.12) / 0.10));
        var talk = Math.Max(0, Math.Sin(t * 0.7)) * (0.35 + (0.35 * Math.Sin(t * 11)));
        w[Sided.Length * 2 - 2] = w[Sided.Length * 2 - 1] = (float)blink;
        w[Sided.Length * 2 + 5] = w[Sided.Length * 2 + 6] = (float)Math.Clamp(talk, 0, 1);
        return FloatPayload.Write(payload, w);
    }
}
