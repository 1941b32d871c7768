using Eidolon.Core.Faces;
using Eidolon.StandIns.Acting;

namespace Eidolon.StandIns.Devices;

/// <summary>What a face tracker makes of a face: noise, a frame lost now and then, and nothing while a hand is before it.</summary>
public static class FaceSimulator
{
    /// <summary>The recording of a face.</summary>
    /// <param name="late">When its first frame was, seconds after the body's.</param>
    public static FaceTake See(FaceAct face, double seconds, double late, int seed, double rate = Eidolon.Devices.FaceWeights.Rate)
    {
        var random = new Random(seed);
        var (n, stride) = ((int)((seconds - late) * rate), FaceUnits.Names.Count + 1);
        var values = new float[n * stride];
        for (var f = 0; f < n; f++)
        {
            var t = late + (f / rate);
            var row = values.AsSpan(f * stride, stride);
            face.At(t, seed, row[..^1]);
            var hidden = face.Hidden.Any(h => t >= h.From && t <= h.To);
            for (var k = 0; k < stride - 1; k++)
            {
                var noise = 0.012f * (random.NextSingle() + random.NextSingle() - 1);
                // A hand before the face: the tracker goes on guessing.
                row[k] = Math.Clamp(hidden ? 0.5f * random.NextSingle() : row[k] + noise, 0, 1);
            }

            row[^1] = hidden ? 0.2f * random.NextSingle() : 0.93f + (0.06f * random.NextSingle());
            if (random.Next(200) == 0)
            {
                row.Fill(float.NaN);
            }
        }

        return new FaceTake(rate, FaceUnits.Names, values);
    }
}
