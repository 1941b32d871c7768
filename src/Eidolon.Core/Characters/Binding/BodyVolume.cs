using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>
/// What a surface encloses, as cells of a grid: everything that the air around it does not reach. Holes narrower than a cell do not matter, and
/// parts that overlap are one body.
/// </summary>
internal sealed class BodyVolume
{
    private static readonly (int X, int Y, int Z, float Length)[] Around =
    [
        .. from x in Enumerable.Range(-1, 3)
        from y in Enumerable.Range(-1, 3)
        from z in Enumerable.Range(-1, 3)
        where x != 0 || y != 0 || z != 0
        select (x, y, z, MathF.Sqrt((x * x) + (y * y) + (z * z))),
    ];

    private readonly Vector3 _origin;

    /// <param name="cell">Edge of a cell, metres.</param>
    public BodyVolume(BareMesh mesh, float cell)
    {
        Cell = cell;
        var (low, high) = Bounds(mesh.Positions);
        _origin = low - new Vector3(2 * cell);
        Width = (int)((high.X - _origin.X) / cell) + 3;
        Height = (int)((high.Y - _origin.Y) / cell) + 3;
        Depth = (int)((high.Z - _origin.Z) / cell) + 3;
        Inside = new bool[Width * Height * Depth];
        Trace(mesh);
        Fill();
        Bridge((int)(.05f * (high.Y - low.Y) / cell));
    }

    public float Cell { get; }

    public int Width { get; }

    public int Height { get; }

    public int Depth { get; }

    /// <summary>[(y × depth + z) × width + x]</summary>
    public bool[] Inside { get; }

    public static (Vector3 Low, Vector3 High) Bounds(Vector3[] places)
    {
        var (low, high) = (new Vector3(float.PositiveInfinity), new Vector3(float.NegativeInfinity));
        foreach (var p in places)
        {
            (low, high) = (Vector3.Min(low, p), Vector3.Max(high, p));
        }

        return (low, high);
    }

    public int At(int x, int y, int z) => (((y * Depth) + z) * Width) + x;

    /// <summary>The cell a place lies in, held to the grid.</summary>
    public int CellOf(Vector3 place)
    {
        var p = (place - _origin) / Cell;
        return At(Math.Clamp((int)p.X, 0, Width - 1), Layer(place.Y), Math.Clamp((int)p.Z, 0, Depth - 1));
    }

    /// <summary>The layer of cells at a height.</summary>
    public int Layer(float y) => Math.Clamp((int)((y - _origin.Y) / Cell), 0, Height - 1);

    /// <summary>The middle of a cell.</summary>
    public Vector3 Middle(int cell)
    {
        var (x, rest) = (cell % Width, cell / Width);
        return _origin + (new Vector3(x + .5f, (rest / Depth) + .5f, (rest % Depth) + .5f) * Cell);
    }

    /// <summary>The inner cell nearest to a place, within a few cells; −1 where there is none.</summary>
    public int InnerCell(Vector3 place, int within = 6)
    {
        var (at, best, cell) = (CellOf(place), float.PositiveInfinity, -1);
        if (Inside[at])
        {
            return at;
        }

        var (x, y, z) = (at % Width, at / Width / Depth, at / Width % Depth);
        for (var j = Math.Max(0, y - within); j <= Math.Min(Height - 1, y + within); j++)
        {
            for (var k = Math.Max(0, z - within); k <= Math.Min(Depth - 1, z + within); k++)
            {
                for (var i = Math.Max(0, x - within); i <= Math.Min(Width - 1, x + within); i++)
                {
                    var c = At(i, j, k);
                    var d = Inside[c] ? Vector3.DistanceSquared(Middle(c), place) : float.PositiveInfinity;
                    (best, cell) = d < best ? (d, c) : (best, cell);
                }
            }
        }

        return cell;
    }

    /// <summary>How far every inner cell is from the nearest source through the body, and which source that is.</summary>
    /// <param name="sources">Cells with a number of one's own.</param>
    /// <returns>Metres, infinite where there is no way; and the numbers, −1 there.</returns>
    /// <remarks>Dijkstra 1959 over the 26 neighbours of a cell.</remarks>
    public (float[] Distance, int[] Source) Spread(IEnumerable<(int Cell, int Source)> sources)
    {
        var distance = new float[Inside.Length];
        var source = new int[Inside.Length];
        Array.Fill(distance, float.PositiveInfinity);
        Array.Fill(source, -1);
        var queue = new PriorityQueue<int, float>();
        foreach (var (cell, number) in sources)
        {
            (distance[cell], source[cell]) = (0, number);
            queue.Enqueue(cell, 0);
        }

        while (queue.TryDequeue(out var c, out var d))
        {
            if (d > distance[c])
            {
                continue;
            }

            // The border is always air, so no neighbour is off the grid.
            foreach (var (x, y, z, length) in Around)
            {
                var n = c + (((y * Depth) + z) * Width) + x;
                var further = d + (length * Cell);
                if (Inside[n] && further < distance[n])
                {
                    (distance[n], source[n]) = (further, source[c]);
                    queue.Enqueue(n, further);
                }
            }
        }

        return (distance, source);
    }

    /// <summary>The neighbours of an inner cell that are inner themselves.</summary>
    public IEnumerable<int> Neighbours(int cell) => Near(cell).Where(n => Inside[n]);

    /// <summary>Parts that lie near the body but do not touch it, as a hand at the end of a sleeve, are joined to it by the shortest way.</summary>
    /// <param name="within">A gap wider than so many cells stays one.</param>
    private void Bridge(int within)
    {
        var part = new int[Inside.Length];
        var parts = new List<List<int>>();
        for (var c = 0; c < part.Length; c++)
        {
            if (Inside[c] && part[c] == 0)
            {
                parts.Add([]);
                Walk([c], n => Inside[n] && part[n] == 0, n => part[n] = parts.Count, parts[^1]);
            }
        }

        parts.Sort((a, b) => b.Count.CompareTo(a.Count));
        var joined = new bool[Inside.Length];
        foreach (var p in parts.Take(1))
        {
            p.ForEach(c => joined[c] = true);
        }

        foreach (var cells in parts.Skip(1))
        {
            // Through the air, ring by ring, until the body is reached.
            var from = new Dictionary<int, int>();
            var ring = cells;
            cells.ForEach(c => from[c] = c);
            var reached = -1;
            for (var k = 0; k < within && reached < 0; k++)
            {
                var next = new List<int>();
                foreach (var c in ring)
                {
                    foreach (var n in Near(c).Where(n => from.TryAdd(n, c)))
                    {
                        reached = joined[n] ? n : reached;
                        next.Add(n);
                    }
                }

                ring = next;
            }

            if (reached >= 0)
            {
                cells.ForEach(own => joined[own] = true);
                for (var at = from[reached]; from[at] != at; at = from[at])
                {
                    Inside[at] = joined[at] = true;
                }
            }
        }
    }

    private void Walk(List<int> from, Func<int, bool> into, Action<int> mark, List<int> found)
    {
        var stack = new Stack<int>(from);
        from.ForEach(mark);
        while (stack.TryPop(out var c))
        {
            found.Add(c);
            foreach (var n in Near(c))
            {
                if (into(n))
                {
                    mark(n);
                    stack.Push(n);
                }
            }
        }
    }

    /// <summary>The neighbours of a cell that are on the grid.</summary>
    private IEnumerable<int> Near(int cell) =>
        Around.Select(a => cell + (((a.Y * Depth) + a.Z) * Width) + a.X).Where(n => n >= 0 && n < Inside.Length);

    /// <summary>Marks the cells that triangles go through.</summary>
    private void Trace(BareMesh mesh)
    {
        for (var t = 0; t + 2 < mesh.Triangles.Length; t += 3)
        {
            var (a, b, c) = (
                mesh.Positions[mesh.Triangles[t]],
                mesh.Positions[mesh.Triangles[t + 1]],
                mesh.Positions[mesh.Triangles[t + 2]]
            );
            var longest = MathF.Max((b - a).Length(), MathF.Max((c - a).Length(), (c - b).Length()));
            var steps = Math.Clamp((int)MathF.Ceiling(longest / Cell * 2), 1, 4096);
            for (var i = 0; i <= steps; i++)
            {
                for (var j = 0; j <= steps - i; j++)
                {
                    Inside[CellOf(a + ((b - a) * (i / (float)steps)) + ((c - a) * (j / (float)steps)))] = true;
                }
            }
        }
    }

    /// <summary>Lets the air in from the border; what it does not reach is inside.</summary>
    private void Fill()
    {
        var air = new bool[Inside.Length];
        var stack = new Stack<int>();
        stack.Push(0);
        air[0] = true;
        while (stack.TryPop(out var c))
        {
            var (x, y, z) = (c % Width, c / Width / Depth, c / Width % Depth);
            void Go(int i, int j, int k)
            {
                if (i < 0 || j < 0 || k < 0 || i >= Width || j >= Height || k >= Depth)
                {
                    return;
                }

                var n = At(i, j, k);
                if (!air[n] && !Inside[n])
                {
                    air[n] = true;
                    stack.Push(n);
                }
            }

            Go(x - 1, y, z);
            Go(x + 1, y, z);
            Go(x, y - 1, z);
            Go(x, y + 1, z);
            Go(x, y, z - 1);
            Go(x, y, z + 1);
        }

        for (var c = 0; c < air.Length; c++)
        {
            Inside[c] = !air[c];
        }
    }
}
