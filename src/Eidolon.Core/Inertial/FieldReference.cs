using Eidolon.Core.Geometry;

namespace Eidolon.Core.Inertial;

/// <summary>
/// One sensor's magnetometer against the room: the room's field as this sensor sees it, its own iron, and from that how far the field is off at
/// each moment.
/// </summary>
/// <remarks>
/// m = (1 + s) · (Rᵀ F) + h with hard iron h and soft iron s along the sensor's axes, small; F is the room's field. A ridge regression with Cauchy's
/// weights over the whole take, so that passing steel counts little (Kok &amp; Schön, "Magnetometer Calibration Using Inertial Sensors", 2016, made linear).
/// </remarks>
internal sealed class FieldReference
{
    /// <summary>Unknowns: field (3), hard iron (3), soft iron (3).</summary>
    private const int Unknowns = 9;

    /// <summary>What iron is likely: hard, µT; soft, a share. The field's own spread is wide.</summary>
    private const double HardIron = 1.5,
        SoftIron = 0.015,
        AnyField = 60;

    /// <summary>A sample counts half when it is so far off, µT.</summary>
    private const double Tolerance = 1.2;

    private readonly Vector3d _hard;
    private readonly Vector3d _soft;

    private FieldReference(Vector3d field, Vector3d hard, Vector3d soft) => (Field, _hard, _soft) = (field, hard, soft);

    /// <summary>The room's field in the world, µT.</summary>
    public Vector3d Field { get; }

    /// <summary>Its part along the floor, µT.</summary>
    public double Horizontal => Math.Sqrt((Field.X * Field.X) + (Field.Z * Field.Z));

    /// <summary>A sensor of which nothing is known yet sees the field of one moment.</summary>
    public static FieldReference Of(Vector3d field) => new(field, default, default);

    /// <summary>A sample without the sensor's own iron, µT.</summary>
    public Vector3d Clean(Vector3d m) =>
        new((m.X - _hard.X) / (1 + _soft.X), (m.Y - _hard.Y) / (1 + _soft.Y), (m.Z - _hard.Z) / (1 + _soft.Z));

    /// <summary>How far a field in the world is from the room's, whatever its heading, µT.</summary>
    public double Off(Vector3d world)
    {
        var across = Math.Sqrt((world.X * world.X) + (world.Z * world.Z)) - Horizontal;
        var up = world.Y - Field.Y;
        return Math.Sqrt((across * across) + (up * up));
    }

    /// <summary>Learns field and iron from a whole take.</summary>
    /// <param name="turns">Sensor to world, a frame each.</param>
    /// <param name="step">Every how many frames one is taken.</param>
    public FieldReference Learn(Quaterniond[] turns, Vector3d[] magnetometer, int step)
    {
        var result = this;
        for (var round = 0; round < 6; round++)
        {
            var a = new double[Unknowns * Unknowns];
            var b = new double[Unknowns];
            for (var f = 0; f < turns.Length; f += step)
            {
                result.Add(a, b, turns[f].ToMatrix(), magnetometer[f]);
            }

            Ridge(a, b);
            if (!DenseCholesky.Factor(a, Unknowns))
            {
                return result;
            }

            DenseCholesky.Solve(a, Unknowns, b);
            result = new(new(b[0], b[1], b[2]), new(b[3], b[4], b[5]), new(b[6], b[7], b[8]));
        }

        return result;
    }

    private void Add(double[] a, double[] b, Matrix3d turn, Vector3d m)
    {
        var back = turn.Transposed;
        var seen = back * Field;
        Span<double> row = stackalloc double[Unknowns];
        ReadOnlySpan<double> own = [seen.X, seen.Y, seen.Z];
        ReadOnlySpan<double> measured = [m.X, m.Y, m.Z];
        ReadOnlySpan<double> hard = [_hard.X, _hard.Y, _hard.Z];
        ReadOnlySpan<double> soft = [_soft.X, _soft.Y, _soft.Z];
        double off = 0;
        for (var k = 0; k < 3; k++)
        {
            var r = measured[k] - ((1 + soft[k]) * own[k]) - hard[k];
            off += r * r;
        }

        var weight = 1 / (1 + (off / (Tolerance * Tolerance)));
        for (var k = 0; k < 3; k++)
        {
            row.Clear();
            (row[0], row[1], row[2]) = k switch
            {
                0 => (back.X.X, back.Y.X, back.Z.X),
                1 => (back.X.Y, back.Y.Y, back.Z.Y),
                _ => (back.X.Z, back.Y.Z, back.Z.Z),
            };
            row[3 + k] = 1;
            row[6 + k] = own[k];
            for (var i = 0; i < Unknowns; i++)
            {
                b[i] += weight * row[i] * measured[k];
                for (var j = 0; j <= i; j++)
                {
                    a[(i * Unknowns) + j] += weight * row[i] * row[j];
                }
            }
        }
    }

    /// <summary>What is likely of iron holds as much as so many samples: neighbouring ones see the same steel.</summary>
    private const double IronSamples = 40;

    /// <summary>A sensor that never turns tells nothing of its iron.</summary>
    private void Ridge(double[] a, double[] b)
    {
        for (var i = 0; i < Unknowns; i++)
        {
            var spread = i switch
            {
                < 3 => AnyField,
                < 6 => HardIron,
                _ => SoftIron,
            };
            var w = Tolerance * Tolerance * (i < 3 ? 1 : IronSamples) / (spread * spread);
            a[(i * Unknowns) + i] += w;
            b[i] +=
                i < 3
                    ? w
                        * (
                            i == 0 ? Field.X
                            : i == 1 ? Field.Y
                            : Field.Z
                        )
                    : 0;
        }
    }
}
