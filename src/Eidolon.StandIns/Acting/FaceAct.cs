using System.Numerics;
using Eidolon.Core.Faces;

namespace Eidolon.StandIns.Acting;

/// <summary>What a face does: weights of action units over time, blinks, and when a hand is before it.</summary>
public sealed class FaceAct
{
    private readonly Dictionary<string, Track> _tracks = new(StringComparer.Ordinal);

    /// <summary>Moments at which the eyes shut for an instant, seconds.</summary>
    public List<float> Blinks { get; } = [];

    /// <summary>Moments at which the mouth pops open, as with a clap, seconds.</summary>
    public List<float> Pops { get; } = [];

    /// <summary>Stretches of speech, seconds.</summary>
    public List<(float From, float To)> Talk { get; } = [];

    /// <summary>Stretches in which a hand hides the face from its camera, seconds.</summary>
    public List<(float From, float To)> Hidden { get; } = [];

    /// <summary>The unit rises to a weight between two moments and goes back.</summary>
    public FaceAct Move(float from, float to, float weight, params string[] units)
    {
        foreach (var u in units)
        {
            if (!_tracks.TryGetValue(u, out var track))
            {
                _tracks[u] = track = new Track();
            }

            track.Hold(from).Key(from + 0.35f, weight).Hold(to - 0.4f).Key(to, 0);
        }

        return this;
    }

    /// <summary>The weights of all units at a moment, 0 to 1.</summary>
    /// <param name="seed">Nobody's two sides move quite alike.</param>
    public void At(double time, int seed, Span<float> weights)
    {
        var t = (float)time;
        for (var i = 0; i < weights.Length; i++)
        {
            var name = FaceUnits.Names[i];
            var side = 1 - (0.12f * ((seed + i) % 3 == 0 ? 1 : 0));
            weights[i] = (_tracks.TryGetValue(name, out var track) ? track.Value(t) : 0) * side;
        }

        int jaw = Unit(FaceUnits.Jaw),
            part = Unit("AU25");
        foreach (var (from, to) in Talk)
        {
            var into = Math.Clamp(Math.Min(t - from, to - t) / 0.15f, 0, 1);
            weights[jaw] = MathF.Max(weights[jaw], into * (0.26f + (0.22f * MathF.Sin(t * 13) * MathF.Sin(t * 5.1f))));
            weights[part] = MathF.Max(weights[part], into * 0.5f);
        }

        foreach (var pop in Pops)
        {
            var open = 0.85f * MathF.Exp(-(t - pop) * (t - pop) / (2 * 0.035f * 0.035f));
            weights[jaw] = MathF.Max(weights[jaw], open);
            weights[part] = MathF.Max(weights[part], open);
        }

        foreach (var blink in Blinks)
        {
            var shut = MathF.Max(0, 1 - (MathF.Abs(t - blink) / 0.09f));
            weights[Unit(FaceUnits.EyeL)] = MathF.Max(weights[Unit(FaceUnits.EyeL)], shut);
            weights[Unit(FaceUnits.EyeR)] = MathF.Max(weights[Unit(FaceUnits.EyeR)], shut);
        }

        for (var i = 0; i < weights.Length; i++)
        {
            weights[i] = Math.Clamp(weights[i], 0, 1);
        }
    }

    private static int Unit(string name)
    {
        for (var i = 0; i < FaceUnits.Names.Count; i++)
        {
            if (FaceUnits.Names[i] == name)
            {
                return i;
            }
        }

        return -1;
    }
}
