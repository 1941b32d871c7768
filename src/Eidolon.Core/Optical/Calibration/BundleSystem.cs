using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>Normal equations of two kinds of unknowns, many small blocks of the second kind: solved by eliminating those first.</summary>
internal sealed class BundleSystem
{
    private readonly int _cameras;
    private readonly int _cs;
    private readonly int _ws;
    private readonly double[] _cc;
    private readonly double[] _gc;
    private readonly Block[] _wands;

    public BundleSystem(int cameras, int cameraSize, int wands, int wandSize)
    {
        (_cameras, _cs, _ws) = (cameras, cameraSize, wandSize);
        _cc = new double[cameras * cameraSize * cameraSize];
        _gc = new double[cameras * cameraSize];
        _wands = [.. Enumerable.Range(0, wands).Select(_ => new Block(wandSize))];
    }

    /// <summary>One residual: <paramref name="j"/> holds the camera's derivatives, then the wand's.</summary>
    public void Add(int camera, int wand, ReadOnlySpan<double> j, double r, double weight)
    {
        var block = _wands[wand];
        var cross = block.Cross(camera, _cs * _ws);
        var cc = _cc.AsSpan(camera * _cs * _cs, _cs * _cs);
        for (var a = 0; a < _cs; a++)
        {
            var wa = weight * j[a];
            _gc[(camera * _cs) + a] += wa * r;
            for (var b = 0; b <= a; b++)
            {
                cc[(a * _cs) + b] += wa * j[b];
            }

            for (var b = 0; b < _ws; b++)
            {
                cross[(a * _ws) + b] += wa * j[_cs + b];
            }
        }

        for (var a = 0; a < _ws; a++)
        {
            var wa = weight * j[_cs + a];
            block.G[a] += wa * r;
            for (var b = 0; b <= a; b++)
            {
                block.H[(a * _ws) + b] += wa * j[_cs + b];
            }
        }
    }

    /// <summary>A parameter that is known by itself: difference and 1 / spread².</summary>
    public void AddPrior(int camera, int parameter, double difference, double weight)
    {
        _cc[(camera * _cs * _cs) + (parameter * _cs) + parameter] += weight;
        _gc[(camera * _cs) + parameter] += weight * difference;
    }

    /// <summary>The damped step of cameras and wands, or null when the system is not positive definite.</summary>
    public (double[] Cameras, double[] Wands)? Solve(double lambda)
    {
        var n = _cameras * _cs;
        var s = new double[n * n];
        var g = new double[n];
        for (var c = 0; c < _cameras; c++)
        {
            for (var a = 0; a < _cs; a++)
            {
                for (var b = 0; b <= a; b++)
                {
                    s[(((c * _cs) + a) * n) + (c * _cs) + b] = _cc[(c * _cs * _cs) + (a * _cs) + b] * (a == b ? 1 + lambda : 1);
                }

                // Parameters nobody has seen (a lens that is held) stay where they are.
                var diagonal = (((c * _cs) + a) * n) + (c * _cs) + a;
                s[diagonal] += 1e-9;
                g[(c * _cs) + a] = -_gc[(c * _cs) + a];
            }
        }

        foreach (var w in _wands)
        {
            if (!w.Factor(_ws, lambda))
            {
                return null;
            }

            w.Eliminate(_cs, _ws, n, s, g);
        }

        if (!DenseCholesky.Factor(s, n))
        {
            return null;
        }

        DenseCholesky.Solve(s, n, g);
        var wands = new double[_wands.Length * _ws];
        for (var i = 0; i < _wands.Length; i++)
        {
            _wands[i].Back(_cs, _ws, g, wands.AsSpan(i * _ws, _ws));
        }

        return (g, wands);
    }

    private sealed class Block(int size)
    {
        private readonly List<(int Camera, double[] Values)> _cross = [];
        private double[] _factor = [];

        public double[] H { get; } = new double[size * size];

        public double[] G { get; } = new double[size];

        public double[] Cross(int camera, int length)
        {
            foreach (var (c, values) in _cross)
            {
                if (c == camera)
                {
                    return values;
                }
            }

            var made = new double[length];
            _cross.Add((camera, made));
            return made;
        }

        public bool Factor(int ws, double lambda)
        {
            _factor = (double[])H.Clone();
            for (var k = 0; k < ws; k++)
            {
                _factor[(k * ws) + k] *= 1 + lambda;
            }

            return DenseCholesky.Factor(_factor, ws);
        }

        /// <summary>S −= W·H⁻¹·Wᵀ and g += W·H⁻¹·gw.</summary>
        public void Eliminate(int cs, int ws, int n, double[] s, double[] g)
        {
            var half = _cross.ConvertAll(x => Halved(x.Values, cs, ws));
            var local = (double[])G.Clone();
            DenseCholesky.Forward(_factor, ws, local);
            for (var i = 0; i < half.Count; i++)
            {
                var ci = _cross[i].Camera * cs;
                for (var a = 0; a < cs; a++)
                {
                    var ra = half[i].AsSpan(a * ws, ws);
                    g[ci + a] += DenseCholesky.Dot(ra, local);
                    for (var k = 0; k < half.Count; k++)
                    {
                        var ck = _cross[k].Camera * cs;
                        if (ck > ci)
                        {
                            continue;
                        }

                        var most = ck == ci ? a + 1 : cs;
                        for (var b = 0; b < most; b++)
                        {
                            s[((ci + a) * n) + ck + b] -= DenseCholesky.Dot(ra, half[k].AsSpan(b * ws, ws));
                        }
                    }
                }
            }
        }

        /// <summary>The wand's own step once the cameras' is known.</summary>
        public void Back(int cs, int ws, double[] cameras, Span<double> step)
        {
            for (var k = 0; k < ws; k++)
            {
                step[k] = -G[k];
            }

            foreach (var (camera, values) in _cross)
            {
                for (var a = 0; a < cs; a++)
                {
                    for (var k = 0; k < ws; k++)
                    {
                        step[k] -= values[(a * ws) + k] * cameras[(camera * cs) + a];
                    }
                }
            }

            DenseCholesky.Solve(_factor, ws, step);
        }

        private double[] Halved(double[] values, int cs, int ws)
        {
            var half = (double[])values.Clone();
            for (var a = 0; a < cs; a++)
            {
                DenseCholesky.Forward(_factor, ws, half.AsSpan(a * ws, ws));
            }

            return half;
        }
    }
}
