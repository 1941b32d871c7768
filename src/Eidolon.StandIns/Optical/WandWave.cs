using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;

namespace Eidolon.StandIns.Optical;

/// <summary>Somebody walks the volume and waves the wand; then the ground frame lies still on the floor.</summary>
public static class WandWave
{
    /// <summary>The three dots of the wand, metres.</summary>
    public static MarkerTake Wave(double seconds, int seed = 3, double rate = 120)
    {
        var random = new Random(seed);
        double P() => random.NextDouble() * Math.Tau;
        double a = P(),
            b = P(),
            c = P(),
            d = P(),
            e = P();
        var wand = new Wand();
        var take = new MarkerTake(["Wand_1", "Wand_2", "Wand_3"], (float)rate, (int)(seconds * rate));
        for (var f = 0; f < take.FrameCount; f++)
        {
            var t = f / rate;
            // A slow walk through the room, the arm's figure of eight on top of it.
            var middle = new Vector3(
                (float)((2.6 * Math.Sin((t * 0.31) + a)) + (0.35 * Math.Sin((t * 2.9) + c))),
                (float)(1.15 + (0.85 * Math.Sin((t * 1.73) + b))),
                (float)((1.9 * Math.Sin((t * 0.43) + c)) + (0.3 * Math.Cos((t * 3.3) + d)))
            );
            var yaw = (t * 1.9) + d + Math.Sin((t * 1.3) + e);
            var pitch = 1.1 * Math.Sin((t * 2.3) + e);
            var along = new Vector3(
                (float)(Math.Cos(pitch) * Math.Sin(yaw)),
                (float)Math.Sin(pitch),
                (float)(Math.Cos(pitch) * Math.Cos(yaw))
            );
            for (var m = 0; m < 3; m++)
            {
                take[f, m] = middle + (along * (float)wand.Offsets[m]);
            }
        }

        return take;
    }

    /// <summary>The four dots of the ground frame, metres.</summary>
    public static MarkerTake Ground(double seconds, double rate = 120)
    {
        var dots = new GroundFrame().Markers;
        var take = new MarkerTake(["Corner", "Short", "LongNear", "LongFar"], (float)rate, (int)(seconds * rate));
        for (var f = 0; f < take.FrameCount; f++)
        {
            dots.CopyTo(take.At(f));
        }

        return take;
    }
}
