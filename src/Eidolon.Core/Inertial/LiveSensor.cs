using Eidolon.Core.Geometry;

namespace Eidolon.Core.Inertial;

/// <summary>
/// How one sensor is turned while it happens: the gyroscope integrated, drawn towards gravity and, where the field is the room's, towards its
/// heading. Nothing waits for what comes next.
/// </summary>
/// <remarks>
/// A complementary filter with gravity averaged in a frame that hardly turns (Laidig &amp; Seel, "VQF", 2023). It begins where
/// <see cref="SensorOrientation"/> ended.
/// </remarks>
internal sealed class LiveSensor(SensorOrientation known)
{
    /// <summary>Time constants: of gravity's mean, of the tilt and of the heading put right, seconds.</summary>
    private const double MeanSeconds = 2,
        TiltSeconds = 4,
        HeadingSeconds = 15;

    /// <summary>A field so far off counts half, µT.</summary>
    private const double FieldUnrest = 2.5;

    /// <summary>No sensor measures more than this in its units; what does was lost on the way.</summary>
    private const float Most = 1e4f;

    private Vector3d _force = new(0, SensorOrientation.Gravity, 0);
    private Vector3d _spin = known.Spin;
    private double _lost;

    /// <summary>Sensor to world, as <see cref="SensorOrientation.Turns"/>.</summary>
    public Quaterniond Turn { get; private set; } = known.Turns[^1];

    /// <summary>How fast it turns, rad/s.</summary>
    public double Spin => _spin.Length;

    /// <summary>One sample; values that are no numbers, or beyond measure, were lost.</summary>
    /// <param name="values">Gyroscope (rad/s), accelerometer (m/s²), magnetometer (µT).</param>
    /// <param name="seconds">Since the last one.</param>
    public void Step(ReadOnlySpan<float> values, double seconds)
    {
        var before = _spin;
        if (Of(values) is { } g)
        {
            // Over lost samples it turned on as before; what it really turned by is known only now.
            _spin = g - known.Bias;
            var by = ((_spin + before) * (0.5 * seconds)) + ((_spin - before) * (0.5 * _lost));
            Turn = (Turn * Quaterniond.Exp(by.X, by.Y, by.Z)).Normalized();
            _lost = 0;
        }
        else
        {
            var by = before * seconds;
            Turn = (Turn * Quaterniond.Exp(by.X, by.Y, by.Z)).Normalized();
            _lost += seconds;
        }

        if (Of(values[3..]) is { } a)
        {
            var force = Turn.ToMatrix() * a;
            _force += (force - _force) * Math.Min(1, seconds / MeanSeconds);
            Tilt(seconds);
        }

        if (Of(values[6..]) is { } m)
        {
            Head(known.Reference.Clean(m), seconds);
        }
    }

    private static Vector3d? Of(ReadOnlySpan<float> v) =>
        MathF.Abs(v[0]) < Most && MathF.Abs(v[1]) < Most && MathF.Abs(v[2]) < Most ? new Vector3d(v[0], v[1], v[2]) : null;

    private void Tilt(double seconds)
    {
        var by = Vector3d.Cross(_force.Normalised(), new Vector3d(0, 1, 0)) * Math.Min(1, seconds / TiltSeconds);
        var turn = Quaterniond.Exp(by.X, by.Y, by.Z);
        Turn = (turn * Turn).Normalized();
        _force = turn.ToMatrix() * _force;
    }

    private void Head(Vector3d own, double seconds)
    {
        var reference = known.Reference;
        var field = Turn.ToMatrix() * own;
        var wanted = reference.Field * (1 / reference.Horizontal);
        var across = new Vector3d(wanted.Z, 0, -wanted.X);
        var off = reference.Off(field) / FieldUnrest;
        // Off in strength or dip it is steel, not the room: believed the less the more it is off.
        var trust = 1 / (1 + (off * off * off * off));
        var by = Math.Clamp(-Vector3d.Dot(across, field) / reference.Horizontal, -1, 1) * trust * Math.Min(1, seconds / HeadingSeconds);
        Turn = (Quaterniond.Exp(0, by, 0) * Turn).Normalized();
    }
}
