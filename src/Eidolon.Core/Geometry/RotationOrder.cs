namespace Eidolon.Core.Geometry;

/// <summary>The order of three axis rotations as a file lists them: <c>ZXY</c> means R = Rz · Rx · Ry (column vectors).</summary>
public readonly record struct RotationOrder
{
    private RotationOrder(int first, int second, int third) => (First, Second, Third) = (first, second, third);

    /// <summary>The commonest order of motion files.</summary>
    public static RotationOrder ZXY { get; } = new(2, 0, 1);

    /// <summary>Axis index (0 = X, 1 = Y, 2 = Z) applied last in world terms, written first.</summary>
    public int First { get; }

    /// <summary>Axis of the second turn, 0 to 2.</summary>
    public int Second { get; }

    /// <summary>Axis of the third turn, 0 to 2.</summary>
    public int Third { get; }

    /// <summary>Reads three different letters out of X, Y and Z.</summary>
    public static bool TryParse(string text, out RotationOrder order)
    {
        order = ZXY;
        var t = text.Trim().ToUpperInvariant();
        if (t.Length != 3)
        {
            return false;
        }

        int a = t[0] - 'X',
            b = t[1] - 'X',
            c = t[2] - 'X';
        if (a is < 0 or > 2 || b is < 0 or > 2 || c is < 0 or > 2 || a == b || b == c || a == c)
        {
            return false;
        }

        order = new RotationOrder(a, b, c);
        return true;
    }

    /// <summary>"ZXY" and its like.</summary>
    public override string ToString() => $"{(char)('X' + First)}{(char)('X' + Second)}{(char)('X' + Third)}";
}
