using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Cleaning;

/// <summary>Finds when feet are planted: slow, and low for the moment around, with hysteresis and a least duration.</summary>
public static class ContactFinder
{
    /// <summary>Speed below which a joint becomes planted, metres a second.</summary>
    private const float Slow = 0.16f;

    /// <summary>Speed above which it is planted no longer.</summary>
    private const float Fast = 0.30f;

    /// <summary>At its edges a contact is stiller than in between, metres a second: feet settle and leave smoothly.</summary>
    private const float Still = 0.07f;

    private const double ShortestSeconds = 0.09;

    /// <summary>Contacts of ankles and toes, in order of role and time.</summary>
    public static List<Contact> Find(Motion motion) => Find(motion, ForwardKinematics.WorldPositions(motion));

    internal static List<Contact> Find(Motion motion, Vector3[] world)
    {
        var contacts = new List<Contact>();
        foreach (var role in new[] { BodyRole.FootL, BodyRole.ToesL, BodyRole.FootR, BodyRole.ToesR })
        {
            var joint = motion.Skeleton.IndexOf(role);
            if (joint >= 0)
            {
                var path = new Vector3[motion.FrameCount];
                for (var f = 0; f < path.Length; f++)
                {
                    path[f] = world[(f * motion.Skeleton.Count) + joint];
                }

                contacts.AddRange(Find(path, motion.FrameRate).Select(c => new Contact(role, c.Start, c.End)));
            }
        }

        return contacts;
    }

    /// <summary>Planted ranges of one path, metres.</summary>
    public static List<(int Start, int End)> Find(ReadOnlySpan<Vector3> path, double rate)
    {
        var n = path.Length;
        var result = new List<(int, int)>();
        if (n < 5)
        {
            return result;
        }

        var span = Math.Max(1, (int)Math.Round(rate * 0.02));
        var speed = new float[n];
        for (var f = 0; f < n; f++)
        {
            int a = Math.Max(0, f - span),
                b = Math.Min(n - 1, f + span);
            speed[f] = (float)((path[b] - path[a]).Length() * rate / (b - a));
        }

        var low = LocalFloor(path, (int)(rate * 0.6));
        var start = -1;
        for (var f = 0; f <= n; f++)
        {
            var height = f < n ? path[f].Y - low[f] : 1;
            if (start < 0 && f < n && speed[f] < Slow && height < 0.035f)
            {
                start = f;
            }
            else if (start >= 0 && (f == n || speed[f] > Fast || height > 0.06f))
            {
                var (a, b) = Settle(speed, start, f - 1);
                if ((b - a + 1) / rate >= ShortestSeconds)
                {
                    result.Add((a, b));
                }

                start = -1;
            }
        }

        return result;
    }

    /// <summary>The edges belong to a contact only while the joint is still; where it never is, while it is slow.</summary>
    private static (int Start, int End) Settle(float[] speed, int start, int end)
    {
        foreach (var limit in new[] { Still, Slow })
        {
            var (a, b) = (start, end);
            while (a < b && speed[a] > limit)
            {
                a++;
            }

            while (b > a && speed[b] > limit)
            {
                b--;
            }

            if (b > a)
            {
                return (a, b);
            }
        }

        return (start, end);
    }

    /// <summary>Lowest height within a window on either side: the floor, or the step one stands on.</summary>
    private static float[] LocalFloor(ReadOnlySpan<Vector3> path, int window)
    {
        var n = path.Length;
        var low = new float[n];
        var queue = new LinkedList<int>();
        var next = 0;
        for (var f = 0; f < n; f++)
        {
            for (; next < n && next <= f + window; next++)
            {
                while (queue.Count > 0 && path[queue.Last!.Value].Y >= path[next].Y)
                {
                    queue.RemoveLast();
                }

                queue.AddLast(next);
            }

            while (queue.First!.Value < f - window)
            {
                queue.RemoveFirst();
            }

            low[f] = path[queue.First.Value].Y;
        }

        return low;
    }
}
