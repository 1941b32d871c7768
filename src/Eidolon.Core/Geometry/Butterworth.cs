namespace Eidolon.Core.Geometry;

/// <summary>Zero-phase low-pass: a second-order Butterworth run forwards and backwards.</summary>
/// <remarks>Winter, "Biomechanics and Motor Control of Human Movement", ch. 3; eq. 3.8 and 3.9: the warped cut-off is corrected for the two passes.</remarks>
public sealed class Butterworth
{
    private readonly double _b0,
        _b1,
        _b2,
        _a1,
        _a2;

    /// <param name="cutoff">Half-power frequency after both passes, Hz.</param>
    /// <param name="rate">Samples a second, Hz.</param>
    public Butterworth(double cutoff, double rate)
    {
        if (!(cutoff > 0) || !(rate > 0) || cutoff >= rate * 0.5)
        {
            throw new ArgumentOutOfRangeException(nameof(cutoff), "The cut-off must lie between 0 and half the frame rate.");
        }

        var k = Math.Tan(Math.PI * cutoff / rate) / Math.Pow(Math.Sqrt(2) - 1, 0.25);
        var norm = 1 / (1 + (Math.Sqrt(2) * k) + (k * k));
        _b0 = k * k * norm;
        _b1 = 2 * _b0;
        _b2 = _b0;
        _a1 = 2 * ((k * k) - 1) * norm;
        _a2 = (1 - (Math.Sqrt(2) * k) + (k * k)) * norm;
        Pad = (int)Math.Min(4000, Math.Ceiling(rate / cutoff * 2));
    }

    private int Pad { get; }

    /// <summary>Filters <paramref name="count"/> samples in place, starting at <paramref name="start"/> with the given stride.</summary>
    public void Apply(Span<float> data, int start, int stride, int count)
    {
        if (count < 4)
        {
            return;
        }

        var pad = Math.Min(Pad, count - 1);
        var x = new double[count + (2 * pad)];
        for (var i = 0; i < count; i++)
        {
            x[pad + i] = data[start + (i * stride)];
        }

        // Odd reflection at both ends keeps value and slope.
        for (var i = 1; i <= pad; i++)
        {
            x[pad - i] = (2 * x[pad]) - x[pad + i];
            x[pad + count - 1 + i] = (2 * x[pad + count - 1]) - x[pad + count - 1 - i];
        }

        Pass(x);
        Array.Reverse(x);
        Pass(x);
        Array.Reverse(x);
        for (var i = 0; i < count; i++)
        {
            data[start + (i * stride)] = (float)x[pad + i];
        }
    }

    private void Pass(double[] x)
    {
        double x1 = x[0],
            x2 = x[0],
            y1 = x[0],
            y2 = x[0];
        for (var i = 0; i < x.Length; i++)
        {
            var v = x[i];
            var y = (_b0 * v) + (_b1 * x1) + (_b2 * x2) - (_a1 * y1) - (_a2 * y2);
            x2 = x1;
            x1 = v;
            y2 = y1;
            y1 = y;
            x[i] = y;
        }
    }
}
