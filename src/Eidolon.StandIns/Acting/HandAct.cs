using System.Numerics;
using Eidolon.Core.Hands;

namespace Eidolon.StandIns.Acting;

/// <summary>What the fingers of one hand do, each a track of degrees: X spread, Y bend at the palm, Z bend in the middle.</summary>
internal sealed class HandAct
{
    /// <summary>Thumb to little finger; relaxed to begin with.</summary>
    public Track[] Fingers { get; } =
    [new(new Vector3(4, 10, 16)), .. Enumerable.Range(1, 4).Select(k => new Track(new Vector3(0, 16 + (3 * k), 24 + (2 * k))))];

    /// <summary>All fingers flat and a little apart.</summary>
    public HandAct Open(float time) => Take(time, k => new Vector3(Apart(k), k == 0 ? 1 : 2, 2));

    /// <summary>All fingers hang as they do by themselves.</summary>
    public HandAct Relax(float time) => Take(time, k => k == 0 ? new Vector3(4, 10, 16) : new Vector3(0, 16 + (3 * k), 24 + (2 * k)));

    /// <summary>Closes the fingers named, by a share of a fist; the others stay.</summary>
    public HandAct Close(float time, float share = 1, params int[] fingers) =>
        Take(
            time,
            k => (k == 0 ? new Vector3(-14, 34, 46) : new Vector3(0, 78 + (2 * k), 96)) * share,
            fingers.Length == 0 ? [0, 1, 2, 3, 4] : fingers
        );

    /// <summary>Stretches the fingers named; the others stay.</summary>
    public HandAct Stretch(float time, params int[] fingers) => Take(time, k => new Vector3(Apart(k) / 2, 3, 3), fingers);

    /// <summary>All stay as they are until then.</summary>
    public HandAct Hold(float time)
    {
        foreach (var f in Fingers)
        {
            f.Hold(time);
        }

        return this;
    }

    /// <summary>How a finger is held. The last joint follows the middle one by a share of the person's own.</summary>
    public FingerPose At(float time, int finger, float follows)
    {
        const float degree = MathF.PI / 180;
        var v = Fingers[finger].At(time) * degree;
        return new FingerPose(v.X, MathF.Max(0, v.Y), MathF.Max(0, v.Z), MathF.Max(0, v.Z * follows));
    }

    private static float Apart(int finger) =>
        finger switch
        {
            0 => 12,
            1 => 6,
            2 => 0,
            3 => -5,
            _ => -11,
        };

    private HandAct Take(float time, Func<int, Vector3> pose, params int[] fingers)
    {
        for (var k = 0; k < Fingers.Length; k++)
        {
            if (fingers.Length == 0 || fingers.Contains(k))
            {
                Fingers[k].Key(time, pose(k));
            }
            else
            {
                Fingers[k].Hold(time);
            }
        }

        return this;
    }
}
