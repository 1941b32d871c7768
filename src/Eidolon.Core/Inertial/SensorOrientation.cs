using Eidolon.Core.Geometry;

namespace Eidolon.Core.Inertial;

/// <summary>
/// How one sensor is turned at every frame: the gyroscope integrated, then put right by gravity and by the room's magnetic field where that is
/// undisturbed, forwards and backwards over the whole take.
/// </summary>
/// <remarks>
/// The parts are those of VQF (Laidig &amp; Seel, "VQF: Highly accurate IMU orientation estimation with bias estimation and magnetic disturbance
/// rejection", 2023): gravity averaged in a frame that hardly turns, bias from rest and from motion, a field that is told by its strength and
/// dip. Since a take is whole when it is solved, a smoother takes the place of the filters.
/// World: Y up, +Z where the field points along the floor.
/// </remarks>
internal sealed class SensorOrientation
{
    /// <summary>M/s².</summary>
    public const double Gravity = 9.81;

    /// <summary>Knots are so far apart, seconds.</summary>
    private const double KnotSeconds = 0.25;

    /// <summary>How a bias wanders, rad/s in a root second; how an integrated turn wanders, rad in a root second.</summary>
    private const double BiasWander = 1.5e-5,
        TurnWander = 6e-4;

    /// <summary>Gravity in a knot is off by so much, m/s², at rest; and by so much of the force's own unrest.</summary>
    private const double ForceRest = 0.06,
        ForceUnrest = 0.7;

    /// <summary>The field's heading in a knot is off by so much, radians; a field that is off by so much, µT, is off in heading by as much again.</summary>
    private const double HeadingSpread = 0.10,
        FieldUnrest = 2.5;

    /// <summary>From here on a field is disturbed, µT; ranges so near are one, shorter ones are passed over, seconds.</summary>
    private const double Disturbed = 3,
        JoinSeconds = 0.5,
        LeastSeconds = 0.3;

    private readonly SensorTrack _track;
    private readonly int _knot;

    /// <summary>How far the bias taken from rest may be off, rad/s.</summary>
    private double _biasSpread;

    private SensorOrientation(SensorTrack track)
    {
        _track = track;
        _knot = Math.Max(2, (int)Math.Round(KnotSeconds * track.Rate));
        Turns = new Quaterniond[track.Count];
        Reference = FieldReference.Of(default);
    }

    /// <summary>Sensor to world, a frame each.</summary>
    public Quaterniond[] Turns { get; }

    /// <summary>How fast it turned at the last frame, in its own axes, rad/s.</summary>
    public Vector3d Spin => _track.Gyroscope[^1] - Bias;

    /// <summary>The gyroscope's bias: the mean over the take, rad/s.</summary>
    public Vector3d Bias { get; private set; }

    /// <summary>The room's field and the sensor's own iron.</summary>
    public FieldReference Reference { get; private set; }

    /// <param name="still">Nobody moves: the bias is what the gyroscope says.</param>
    /// <param name="steady">Where heading and inclination begin: the T-pose.</param>
    public static SensorOrientation Find(SensorTrack track, FrameRange still, FrameRange steady)
    {
        var found = new SensorOrientation(track) { Bias = SensorTrack.Mean(track.Gyroscope, still) };
        found._biasSpread = found.Sway(still);
        var start = Level(SensorTrack.Mean(track.Accelerometer, steady), SensorTrack.Mean(track.Magnetometer, steady));
        var at = (steady.Start + steady.End) / 2;
        found.Integrate(start, at);
        found.Reference = FieldReference.Of(start.ToMatrix() * SensorTrack.Mean(track.Magnetometer, steady));
        found.LearnBias(start, at);
        found.Correct(track.Count);
        for (var round = 0; round < 2; round++)
        {
            found.Reference = found.Reference.Learn(found.Turns, track.Magnetometer, Math.Max(1, (int)(track.Rate / 10)));
            found.Correct(track.Count);
        }

        return found;
    }

    /// <summary>
    /// The bias of someone who swayed while standing still turns the whole take by many degrees: it is learnt over a little of it, where the
    /// turn is small yet, then over more.
    /// </summary>
    private void LearnBias(Quaterniond known, int at)
    {
        foreach (var seconds in new[] { 15, 45, 135 })
        {
            var until = Math.Min(Turns.Length, at + (int)(seconds * _track.Rate));
            Correct(until);
            Integrate(known, at);
            // What is left turns the sensor by no more than a degree or two over that time.
            _biasSpread = Math.Min(_biasSpread, 0.04 / seconds);
            if (until == Turns.Length)
            {
                return;
            }
        }
    }

    /// <summary>Where the field is not the room's, frames inclusive, with the most it is off.</summary>
    public IEnumerable<(FrameRange Range, double Microtesla)> Disturbances()
    {
        var half = _knot / 2;
        var off = Smoothed(half);
        var (start, end, most) = (-1, -1, 0.0);
        for (var f = 0; f <= off.Length; f++)
        {
            if (f < off.Length && off[f] > Disturbed)
            {
                if (start >= 0 && f - end > JoinSeconds * _track.Rate)
                {
                    if (end - start + 1 >= LeastSeconds * _track.Rate)
                    {
                        yield return (new FrameRange(start, end), most);
                    }

                    (start, most) = (f, 0);
                }

                (start, end, most) = (start < 0 ? f : start, f, Math.Max(most, off[f]));
            }
        }

        if (start >= 0 && end - start + 1 >= LeastSeconds * _track.Rate)
        {
            yield return (new FrameRange(start, end), most);
        }
    }

    /// <summary>
    /// Who stands still sways: what the mean over such a range is off by as a bias, rad/s. A sensor laid down does not sway, and its mean is
    /// as good as its noise lets it be.
    /// </summary>
    private double Sway(FrameRange still)
    {
        const double noise = 1e-4;
        Vector3d way = default;
        double sum = 0;
        for (var f = still.Start; f <= still.End; f++)
        {
            way += (_track.Gyroscope[f] - Bias) * (1 / _track.Rate);
            sum += Vector3d.Dot(way, way);
        }

        return noise + (2 * Math.Sqrt(sum / still.Length) / (still.Length / _track.Rate));
    }

    private double[] Smoothed(int half)
    {
        var sums = new Vector3d[Turns.Length + 1];
        for (var f = 0; f < Turns.Length; f++)
        {
            sums[f + 1] = sums[f] + (Turns[f].ToMatrix() * Reference.Clean(_track.Magnetometer[f]));
        }

        var off = new double[Turns.Length];
        for (var f = 0; f < off.Length; f++)
        {
            int a = Math.Max(0, f - half),
                b = Math.Min(off.Length, f + half + 1);
            off[f] = Reference.Off((sums[b] - sums[a]) * (1.0 / (b - a)));
        }

        return off;
    }

    /// <summary>The turn of a sensor at rest from what is up and where the field points.</summary>
    private static Quaterniond Level(Vector3d up, Vector3d field)
    {
        up = up.Normalised();
        var north = (field - (up * Vector3d.Dot(field, up))).Normalised();
        var east = Vector3d.Cross(up, north);
        Quaterniond back = Rotations.FromAxes(east.ToSingle(), up.ToSingle(), north.ToSingle());
        return back.Conjugate().Normalized();
    }

    /// <summary>Goes from one known frame to both ends, by the mean of two samples over each interval.</summary>
    private void Integrate(Quaterniond known, int at)
    {
        var half = 0.5 / _track.Rate;
        Quaterniond Step(int f)
        {
            var w = _track.Gyroscope[f] + _track.Gyroscope[f + 1] - (Bias * 2);
            return Quaterniond.Exp(w.X * half, w.Y * half, w.Z * half);
        }

        Turns[at] = known;
        for (var f = at; f + 1 < Turns.Length; f++)
        {
            Turns[f + 1] = (Turns[f] * Step(f)).Normalized();
        }

        for (var f = at; f > 0; f--)
        {
            Turns[f - 1] = (Turns[f] * Step(f - 1).Conjugate()).Normalized();
        }
    }

    /// <summary>One pass of the smoother; the second time round what the first one left is small.</summary>
    /// <param name="count">Frames from the beginning.</param>
    private void Correct(int count)
    {
        var knots = Math.Max(1, count / _knot);
        var smoother = new ErrorSmoother(0.05, _biasSpread);
        for (var k = 0; k < knots; k++)
        {
            int a = k * _knot,
                b = k + 1 == knots ? count : a + _knot;
            See(smoother, a, b);
        }

        Apply(smoother.Smooth(), knots, count);
    }

    private void See(ErrorSmoother smoother, int a, int b)
    {
        var (count, dt) = (b - a, 1 / _track.Rate);
        Vector3d force = default,
            field = default,
            x = default,
            y = default,
            z = default;
        double unrest = 0,
            lost = 0;
        for (var f = a; f < b; f++)
        {
            var turn = Turns[f].ToMatrix();
            var own = turn * _track.Accelerometer[f];
            force += own;
            var away = own - new Vector3d(0, Gravity, 0);
            unrest += Vector3d.Dot(away, away);
            field += turn * Reference.Clean(_track.Magnetometer[f]);
            (x, y, z) = (x + turn.X, y + turn.Y, z + turn.Z);
            lost += _track.Guess[f];
        }

        (force, field) = (force * (1.0 / count), field * (1.0 / count));
        var (time, shake) = (count * dt, Math.Sqrt(unrest / count));
        var wander = (TurnWander * TurnWander * time) + lost;
        smoother.Go(new Matrix3d(x * dt, y * dt, z * dt), wander, BiasWander * BiasWander * time);
        var rest = (ForceRest * ForceRest) + (ForceUnrest * ForceUnrest * shake * shake);
        smoother.See(new Vector3d(0, 0, Gravity), force.X, rest);
        smoother.See(new Vector3d(Gravity, 0, 0), -force.Z, rest);
        SeeField(smoother, field);
    }

    /// <summary>The field along the floor points where the room's does; less so the more its strength or dip is off.</summary>
    private void SeeField(ErrorSmoother smoother, Vector3d field)
    {
        var wanted = Reference.Field * (1 / Reference.Horizontal);
        // Across the room's heading, in the world: zero when the turn is right.
        var across = new Vector3d(wanted.Z, 0, -wanted.X);
        var value = Vector3d.Dot(across, field) / Reference.Horizontal;
        var row = Vector3d.Cross(field, across) * (1 / Reference.Horizontal);
        var off = Reference.Off(field) / Reference.Horizontal;
        var sigma = HeadingSpread + (FieldUnrest * off);
        // Off by more than its own spread it counts less and less: steel that turns the field without weakening it.
        var far = value / sigma;
        smoother.See(row, -value, sigma * sigma * (1 + (far * far)));
    }

    private void Apply((Vector3d Turn, Vector3d Bias)[] found, int knots, int count)
    {
        Vector3d sum = default;
        for (var f = 0; f < count; f++)
        {
            var at = Math.Min(knots, (double)f / _knot);
            var k = Math.Min(knots - 1, (int)at);
            var t = Math.Min(1, at - k);
            var e = (found[k].Turn * (1 - t)) + (found[k + 1].Turn * t);
            Turns[f] = (Quaterniond.Exp(e.X, e.Y, e.Z) * Turns[f]).Normalized();
            sum += found[k].Bias;
        }

        Bias += sum * (1.0 / count);
    }
}
