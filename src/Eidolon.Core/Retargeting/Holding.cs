using System.Numerics;

namespace Eidolon.Core.Retargeting;

/// <summary>How strongly a hand, foot, elbow, knee or the head of a character is held to the performer's.</summary>
public sealed record Holding
{
    /// <summary>0 to 1: how far it is drawn to the performer's place.</summary>
    public float Place { get; init; }

    /// <summary>0 to 1: 1 keeps the performer's turn in the world, 0 lets the bone above carry it.</summary>
    public float Turn { get; init; } = 1;

    /// <summary>Added to the place it is held at, metres, in its own axes as they lie in the T-pose (left, up, ahead): it turns along.</summary>
    public Vector3 Offset { get; init; }

    /// <summary>Place and Turn over time, in order of frames; they stand over the two above. Before the first and after the last they stay.</summary>
    public IReadOnlyList<HoldKey> Keys { get; init; } = [];

    /// <summary>True when it is never drawn anywhere.</summary>
    public bool IsFree => Place <= 0 && Keys.All(k => k.Place <= 0);

    /// <summary>Place and Turn at a frame; between two keys they go over with rest at both ends.</summary>
    public (float Place, float Turn) At(int frame)
    {
        if (Keys.Count == 0)
        {
            return (Place, Turn);
        }

        var next = 0;
        while (next < Keys.Count && Keys[next].Frame <= frame)
        {
            next++;
        }

        if (next == 0 || next == Keys.Count)
        {
            var at = Keys[next == 0 ? 0 : ^1];
            return (at.Place, at.Turn);
        }

        var (a, b) = (Keys[next - 1], Keys[next]);
        var t = (frame - a.Frame) / (float)(b.Frame - a.Frame);
        t = t * t * (3 - (2 * t));
        return (a.Place + ((b.Place - a.Place) * t), a.Turn + ((b.Turn - a.Turn) * t));
    }
}
