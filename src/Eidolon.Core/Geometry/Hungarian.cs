namespace Eidolon.Core.Geometry;

/// <summary>Minimum-cost assignment of rows to columns.</summary>
/// <remarks>Jonker &amp; Volgenant, "A shortest augmenting path algorithm", Computing 38, 1987 (dense form, O(n³)).</remarks>
public static class Hungarian
{
    /// <summary>For each row the chosen column, or −1 where the cost reached <paramref name="gate"/>.</summary>
    public static int[] Assign(double[,] cost, double gate)
    {
        int rows = cost.GetLength(0),
            cols = cost.GetLength(1);
        var n = rows;
        var m = cols + rows; // a private "no column" at the price of the gate for every row
        var u = new double[n + 1];
        var v = new double[m + 1];
        var p = new int[m + 1];
        var way = new int[m + 1];
        for (var i = 1; i <= n; i++)
        {
            p[0] = i;
            var j0 = 0;
            var min = new double[m + 1];
            Array.Fill(min, double.PositiveInfinity);
            var used = new bool[m + 1];
            do
            {
                used[j0] = true;
                int i0 = p[j0],
                    j1 = 0;
                var delta = double.PositiveInfinity;
                for (var j = 1; j <= m; j++)
                {
                    if (used[j])
                    {
                        continue;
                    }

                    var c = j <= cols ? Math.Min(cost[i0 - 1, j - 1], gate * 4) : (j - cols == i0 ? gate : gate * 4);
                    var cur = c - u[i0] - v[j];
                    if (cur < min[j])
                    {
                        min[j] = cur;
                        way[j] = j0;
                    }

                    if (min[j] < delta)
                    {
                        delta = min[j];
                        j1 = j;
                    }
                }

                for (var j = 0; j <= m; j++)
                {
                    if (used[j])
                    {
                        u[p[j]] += delta;
                        v[j] -= delta;
                    }
                    else
                    {
                        min[j] -= delta;
                    }
                }

                j0 = j1;
            } while (p[j0] != 0);
            do
            {
                var j1 = way[j0];
                p[j0] = p[j1];
                j0 = j1;
            } while (j0 != 0);
        }

        var result = new int[rows];
        Array.Fill(result, -1);
        for (var j = 1; j <= cols; j++)
        {
            if (p[j] > 0 && cost[p[j] - 1, j - 1] < gate)
            {
                result[p[j] - 1] = j - 1;
            }
        }

        return result;
    }
}
