using System.Globalization;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Pages.Library;

/// <summary>A rig as threads: each joint beside the one it hangs from, its role above, its own name below.</summary>
public sealed class HierarchyDrawing
{
    private const int Across = 86,
        Row = 44,
        LowRow = 26,
        FingerRow = 10,
        FingerAcross = 24,
        Left = 52,
        Top = 30;

    private readonly Skeleton _skeleton;
    private readonly RoleSheet _sheet;
    private readonly int[][] _children;
    private readonly int[] _roles;
    private readonly List<Knot> _knots = [];
    private readonly List<string> _threads = [];
    private readonly List<char> _sides = [];
    private int _low;
    private int _up;

    private HierarchyDrawing(Skeleton skeleton, RoleSheet sheet)
    {
        (_skeleton, _sheet) = (skeleton, sheet);
        _children = [.. Enumerable.Range(0, skeleton.Count).Select(j => skeleton.Children(j).ToArray())];
        _roles = new int[skeleton.Count];
        for (var j = skeleton.Count - 1; j >= 0; j--)
        {
            _roles[j] = (Role(j) is null ? 0 : 1) + _children[j].Sum(c => _roles[c]);
        }
    }

    /// <summary>A joint as it is drawn.</summary>
    /// <param name="Small">Without words of its own: a joint of a finger.</param>
    /// <param name="Class">l, r or c; "none" without a role.</param>
    public sealed record Knot(int Joint, string Name, BodyRole? Role, int X, int Y, bool Small, string Class, bool Asked, bool ByHand)
    {
        /// <summary>The role without its side, as it stands above the knot.</summary>
        public string Word => Role is { } r ? Words.Of(r) : string.Empty;

        /// <summary>Name and role, for those who do not see the drawing.</summary>
        public string Said => Role is { } r ? $"{Name}, {Words.Said(r)}" : $"{Name}, no role";

        /// <summary>The name, its middle left out where it is long.</summary>
        public string Shown => Name.Length > 11 ? $"{Name[..5]}…{Name[^5..]}" : Name;

        /// <summary>SVG text above the knot, whole; roles are words of our own.</summary>
        public string Above => Open(Y - 10, "bmt") + Word + (Asked ? "?" : string.Empty) + "</text>";

        /// <summary>SVG text below the knot, to be filled with the name and closed.</summary>
        public string Below => Open(Y + 17, "e-jn");

        private string Open(int y, string look) => $"<text x=\"{X}\" y=\"{y}\" text-anchor=\"middle\" class=\"{look}\">";
    }

    /// <summary>All joints, in the skeleton's order.</summary>
    public IReadOnlyList<Knot> Knots => _knots;

    /// <summary>Threads from joint to joint, as SVG paths, each with the side it is of.</summary>
    public IEnumerable<(string Path, char Side)> Threads => _threads.Zip(_sides);

    public int Width => _knots.Max(k => k.X) + 60;

    public int Height => _knots.Max(k => k.Y) + 26;

    public static HierarchyDrawing Of(Skeleton skeleton, RoleSheet sheet)
    {
        var drawing = new HierarchyDrawing(skeleton, sheet) { _low = Top - Row };
        foreach (var root in Enumerable.Range(0, skeleton.Count).Where(j => skeleton.Parents[j] < 0))
        {
            // Arms lie above the spine, legs below it.
            drawing._up = drawing._low + Row;
            drawing._low = drawing._up + drawing.Above(root);
            drawing.Place(root, Left, drawing._low);
        }

        return drawing;
    }

    private BodyRole? Role(int joint) => _sheet.Of(_skeleton[joint].Name);

    private bool IsFinger(int joint) => Role(joint) is { } r && BodyRoles.IsFinger(r);

    private void Place(int joint, int x, int y)
    {
        var role = Role(joint);
        var side = role is { } r ? BodyRoles.Side(r) : 'N';
        var finger = IsFinger(joint);
        _knots.Add(
            new Knot(
                joint,
                _skeleton[joint].Name,
                role,
                x,
                y,
                finger,
                side == 'N' ? "none" : char.ToLowerInvariant(side).ToString(),
                role is { } q && _sheet.Asked.Any(a => a.Role == q),
                role is { } h && _sheet.ByHand.Contains(h)
            )
        );
        // The thread goes on in its row where most of the body hangs; fingers lie close together around the hand's row.
        var children = _children[joint].OrderByDescending(c => IsSpine(c)).ThenByDescending(c => _roles[c]).ThenBy(c => c).ToArray();
        var fingers = children.Where(IsFinger).ToArray();
        var first = y - (FingerRow * (fingers.Length - 1) / 2);
        for (var k = 0; k < fingers.Length; k++)
        {
            Go(fingers[k], x, y, x + (finger ? FingerAcross : Across / 2), finger ? y : first + (k * FingerRow));
        }

        foreach (var arm in children.Where(IsArm))
        {
            var (low, at) = (_low, _up);
            _low = at;
            Go(arm, x, y, x + Across, at);
            (_up, _low) = (_low + Row, low);
        }

        var plain = children.Where(c => !IsFinger(c) && !IsArm(c)).ToArray();
        for (var k = 0; k < plain.Length; k++)
        {
            var own = k == 0 && fingers.Length == 0;
            if (!own)
            {
                _low += _roles[plain[k]] > 0 ? Row : LowRow;
            }

            Go(plain[k], x, y, x + (finger ? FingerAcross : Across), own ? y : _low);
        }
    }

    /// <summary>Where a branch of the trunk begins that ends in a hand.</summary>
    private bool IsArm(int joint) =>
        !IsSpine(joint)
        && _skeleton.Parents[joint] is >= 0 and var p
        && (IsSpine(p) || Role(p) is BodyRole.Pelvis)
        && _skeleton.Branch(joint).Any(j => Role(j) is BodyRole.HandL or BodyRole.HandR);

    /// <summary>How high the arms of a tree are when they lie one above the other.</summary>
    private int Above(int root) =>
        _skeleton
            .Branch(root)
            .Where(IsArm)
            .Sum(arm =>
            {
                var alone = new HierarchyDrawing(_skeleton, _sheet);
                alone.Place(arm, 0, 0);
                return alone._low + Row;
            });

    private bool IsSpine(int joint) =>
        Role(joint) is { } r && (BodyRoles.Spine.Contains(r) || r is BodyRole.Neck or BodyRole.NeckLower or BodyRole.Head);

    private void Go(int joint, int x, int y, int toX, int toY)
    {
        _threads.Add(
            y == toY
                ? string.Create(CultureInfo.InvariantCulture, $"M{x} {y}H{toX}")
                : string.Create(CultureInfo.InvariantCulture, $"M{x} {y}C{x + ((toX - x) / 2)} {y} {x + ((toX - x) / 3)} {toY} {toX} {toY}")
        );
        _sides.Add(Role(joint) is { } r ? BodyRoles.Side(r) : 'N');
        Place(joint, toX, toY);
    }
}
