using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.StandIns.Acting;

/// <summary>Key values over time with minimum-jerk moves between them (Flash &amp; Hogan 1985).</summary>
internal sealed class Track(Vector3 start)
{
    private readonly List<(float Time, Vector3 Value)> _keys = [(0, start)];

    public Track()
        : this(Vector3.Zero) { }

    /// <summary>Be at <paramref name="value"/> at <paramref name="time"/>; keys come in order of time.</summary>
    public Track Key(float time, Vector3 value)
    {
        if (time <= 0)
        {
            _keys.Clear();
        }

        _keys.Add((time, value));
        return this;
    }

    public Track Key(float time, float value) => Key(time, new Vector3(value));

    /// <summary>Stays as it is until <paramref name="time"/>.</summary>
    public Track Hold(float time) => Key(time, _keys[^1].Value);

    public Vector3 At(float time)
    {
        var i = _keys.FindLastIndex(k => k.Time <= time);
        if (i == _keys.Count - 1)
        {
            return _keys[i].Value;
        }

        if (i < 0)
        {
            return _keys[0].Value;
        }

        var (t0, v0) = _keys[i];
        var (t1, v1) = _keys[i + 1];
        return Vector3.Lerp(v0, v1, CubicSpline.MinimumJerk((time - t0) / (t1 - t0)));
    }

    public float Value(float time) => At(time).X;
}
