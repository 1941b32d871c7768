namespace Eidolon.Core.Hands;

/// <summary>How both hands are held over a take: [frame × 10 + side × 5 + finger], left first, thumb first.</summary>
public sealed class HandPoses(int frames)
{
    /// <summary>Fingers of both hands.</summary>
    public const int Fingers = 2 * HandShape.FingerCount;

    /// <summary>Frames.</summary>
    public int FrameCount { get; } = frames;

    /// <summary>The poses.</summary>
    public FingerPose[] Poses { get; } = new FingerPose[frames * Fingers];

    /// <summary>How far what was seen is from the pose, RMS, metres; NaN where the finger was not seen and its pose is filled.</summary>
    public float[] Residuals { get; } = NotSeen(frames);

    /// <summary>Index of a finger's sample.</summary>
    public static int At(int frame, int side, int finger) => (frame * Fingers) + (side * HandShape.FingerCount) + finger;

    /// <summary>
    /// Fills what was not seen: between two seen frames by a smooth way, before the first and after the last it stays; a finger that was never
    /// seen is held as its nearest seen neighbours are.
    /// </summary>
    public void Fill()
    {
        for (var side = 0; side < 2; side++)
        {
            var never = new List<int>();
            for (var finger = 0; finger < HandShape.FingerCount; finger++)
            {
                if (!FillOver(side, finger))
                {
                    never.Add(finger);
                }
            }

            foreach (var finger in never)
            {
                // The thumb closes in its own way: no finger tells of it unless there is no other.
                int[] known =
                [
                    .. Enumerable
                        .Range(0, HandShape.FingerCount)
                        .Where(k => !never.Contains(k) && (k > 0 || finger == 0))
                        .OrderBy(k => Math.Abs(k - finger)),
                ];
                if (known.Length == 0)
                {
                    continue;
                }

                var near = known.TakeWhile(k => Math.Abs(k - finger) == Math.Abs(known[0] - finger)).ToArray();
                for (var f = 0; f < FrameCount; f++)
                {
                    var mean = (First: 0f, Second: 0f, Third: 0f);
                    foreach (var k in near)
                    {
                        var p = Poses[At(f, side, k)];
                        mean = (
                            mean.First + (p.First / near.Length),
                            mean.Second + (p.Second / near.Length),
                            mean.Third + (p.Third / near.Length)
                        );
                    }

                    var share = finger == 0 ? 0.5f : 1;
                    Poses[At(f, side, finger)] = FingerLimits
                        .Of(finger == 0)
                        .Clamp(new FingerPose(0, mean.First * share, mean.Second * share, mean.Third * share));
                }
            }
        }
    }

    private static float[] NotSeen(int frames)
    {
        var r = new float[frames * Fingers];
        Array.Fill(r, float.NaN);
        return r;
    }

    private bool FillOver(int side, int finger)
    {
        var last = -1;
        for (var f = 0; f <= FrameCount; f++)
        {
            if (f < FrameCount && float.IsNaN(Residuals[At(f, side, finger)]))
            {
                continue;
            }

            if (f == FrameCount && last < 0)
            {
                return false;
            }

            for (var k = last + 1; k < f; k++)
            {
                var (a, b) = (
                    Poses[At(Math.Max(0, last < 0 ? f : last), side, finger)],
                    Poses[At(f < FrameCount ? f : last, side, finger)]
                );
                var t = last < 0 || f == FrameCount ? 0 : Geometry.CubicSpline.MinimumJerk((k - last) / (float)(f - last));
                float Mix(float x, float y) => x + ((y - x) * t);
                Poses[At(k, side, finger)] = new FingerPose(
                    Mix(a.Spread, b.Spread),
                    Mix(a.First, b.First),
                    Mix(a.Second, b.Second),
                    Mix(a.Third, b.Third)
                );
            }

            last = f;
        }

        return true;
    }
}
