using Eidolon.Core.Faces;

namespace Eidolon.StandIns.Devices;

/// <summary>The stand-in face tracker: a weight for each action unit of the Facial Action Coding System, left and right apart, at 60 frames a second.</summary>
public sealed class FaceStandIn : StandInDevice
{
    public override DeviceKind Kind => DeviceKind.Face;

    public override double Rate => FaceWeights.Rate;

    public override double ClockAhead => 0.004;

    public override byte? Battery(double seconds) => (byte)Math.Clamp(88 - (seconds / 60), 1, 100);

    public override int Payload(int source, double time, Span<byte> payload)
    {
        var t = Math.Max(0, time - Scenes.Began);
        Span<float> w = stackalloc float[FaceWeights.Names.Count];
        for (var i = 0; i < w.Length; i++)
        {
            // Small lively moves; the right side follows the left closely, never exactly.
            var unit = i < FaceUnits.Sided.Count * 2 ? i / 2 : i;
            var side = i < FaceUnits.Sided.Count * 2 ? (i % 2) * 0.06 : 0;
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
        w[FaceUnits.Sided.Count * 2 - 2] = w[FaceUnits.Sided.Count * 2 - 1] = (float)blink;
        w[FaceUnits.Sided.Count * 2 + 5] = w[FaceUnits.Sided.Count * 2 + 6] = (float)Math.Clamp(talk, 0, 1);
        return FloatPayload.Write(payload, w);
    }
}
