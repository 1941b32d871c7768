namespace Eidolon.Core.Solving;

/// <summary>
/// The unknowns of a body's shape in the order of the tree, so that what a degree of freedom moves lies side by side: the equations that
/// couple shape and pose are then sums over short runs.
/// </summary>
internal sealed class ShapeOrder
{
    public ShapeOrder(ArticulatedModel model, BodyShape shape)
    {
        Count = shape.Count;
        Terms = new int[Count];
        var (first, end) = (new int[model.JointCount], new int[model.JointCount]);
        var own = Enumerable.Range(0, model.JointCount).Select(_ => new List<int>()).ToArray();
        for (var k = 0; k < Count; k++)
        {
            var t = shape.Terms[k];
            own[t.Joint >= 0 ? t.Joint : model.MarkerJoints[t.Marker]].Add(k);
        }

        var children = Enumerable.Range(0, model.JointCount).ToLookup(j => model.Parents[j]);
        var at = 0;
        Lay(0);
        var place = new int[Count];
        for (var p = 0; p < Count; p++)
        {
            place[Terms[p]] = p;
        }

        Runs = new (int, int)[model.DofCount];
        Above = new int[model.DofCount][];
        for (var j = 0; j < model.JointCount; j++)
        {
            // The bones on the way to a joint move whatever hangs on it, but do not lie in its run.
            int[] bones = [.. Ancestors(j).SelectMany(a => own[a]).Where(k => shape.Terms[k].Joint >= 0).Select(k => place[k]).Order()];
            for (var d = model.FirstDof[j]; d < model.FirstDof[j] + model.Freedoms[j].Count; d++)
            {
                (Runs[d], Above[d]) = ((first[j], end[j]), bones);
            }
        }

        Supports = new int[Count][];
        for (var p = 0; p < Count; p++)
        {
            var t = shape.Terms[Terms[p]];
            Supports[p] = t.Joint < 0 ? Chain(model.MarkerJoints[t.Marker]) : Carried(t.Joint);
        }

        All = [.. Enumerable.Range(0, model.DofCount).Reverse()];
        TermsOf = [.. Enumerable.Range(0, model.MarkerCount).Select(OfMarker)];
        DofsOf = [.. Enumerable.Range(0, model.MarkerCount).Select(i => Chain(model.MarkerJoints[i]))];

        void Lay(int joint)
        {
            first[joint] = at;
            foreach (var k in own[joint].OrderBy(k => shape.Terms[k].Joint < 0))
            {
                Terms[at++] = k;
            }

            foreach (var c in children[joint])
            {
                Lay(c);
            }

            end[joint] = at;
        }

        IEnumerable<int> Ancestors(int joint)
        {
            for (var a = model.Parents[joint]; a >= 0; a = model.Parents[a])
            {
                yield return a;
            }
        }

        int[] Chain(int joint) => model.LastDof[joint] is >= 0 and var last ? [.. Enumerable.Reverse(model.Rows.Chains[last])] : [];

        int[] Carried(int joint) =>
            [
                .. Enumerable
                    .Range(0, model.JointCount)
                    .Where(j => j == joint || Ancestors(j).Contains(joint))
                    .SelectMany(Chain)
                    .Distinct()
                    .OrderDescending(),
            ];

        int[] OfMarker(int marker) =>
            [
                .. Ancestors(model.MarkerJoints[marker])
                    .Prepend(model.MarkerJoints[marker])
                    .SelectMany(j => own[j])
                    .Where(k => shape.Terms[k] is var t && (t.Joint >= 0 || t.Marker == marker))
                    .Select(k => place[k])
                    .Order(),
            ];
    }

    /// <summary>Unknowns.</summary>
    public int Count { get; }

    /// <summary>The unknown at each place of this order, as the shape numbers them.</summary>
    public int[] Terms { get; }

    /// <summary>For each degree of freedom: where the unknowns of all it carries begin and end.</summary>
    public (int Start, int End)[] Runs { get; }

    /// <summary>For each degree of freedom: places of the bones between the root and it, ascending; all before its run.</summary>
    public int[][] Above { get; }

    /// <summary>For each place: the degrees of freedom its unknown shares a marker with, the last first.</summary>
    public int[][] Supports { get; }

    /// <summary>Every degree of freedom, the last first.</summary>
    public int[] All { get; }

    /// <summary>For each marker: places of the unknowns that move it, ascending.</summary>
    public int[][] TermsOf { get; }

    /// <summary>For each marker: the degrees of freedom that move it, the last first.</summary>
    public int[][] DofsOf { get; }
}
