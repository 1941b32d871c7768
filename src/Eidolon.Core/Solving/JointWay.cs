using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>
/// The way every joint takes between two poses when nothing is seen of it: a cubic in its own freedoms with the speeds at both ends, which are
/// believed for a while only.
/// </summary>
internal sealed class JointWay
{
    private readonly ArticulatedModel _model;
    private readonly ModelPose _from;
    private readonly int _length;
    private readonly double[] _change,
        _start,
        _end;

    /// <param name="before">So many frames before <paramref name="from"/> as <paramref name="edge"/> says.</param>
    /// <param name="after">So many frames after <paramref name="to"/>.</param>
    /// <param name="length">Frames between <paramref name="from"/> and <paramref name="to"/>.</param>
    /// <param name="momentum">Frames for which a speed is believed.</param>
    public JointWay(
        ArticulatedModel model,
        ModelPose before,
        ModelPose from,
        ModelPose to,
        ModelPose after,
        int edge,
        int length,
        double momentum
    )
    {
        (_model, _from, _length) = (model, from, length);
        (_change, _start, _end) = (new double[model.DofCount], new double[model.DofCount], new double[model.DofCount]);
        Difference(from, to, _change);
        Difference(before, from, _start);
        Difference(to, after, _end);
        var reach = Math.Min(length, momentum) / edge;
        for (var d = 0; d < _change.Length; d++)
        {
            (_start[d], _end[d]) = (_start[d] * reach, _end[d] * reach);
        }
    }

    /// <summary>The pose so many frames on.</summary>
    public ModelPose At(int frame)
    {
        var t = frame / (float)_length;
        var delta = new double[_change.Length];
        for (var d = 0; d < delta.Length; d++)
        {
            delta[d] = CubicSpline.Hermite(0, (float)_start[d], (float)_change[d], (float)_end[d], t);
        }

        var pose = new ModelPose(_model);
        pose.Step(_model, _from, delta);
        return pose;
    }

    private void Difference(ModelPose a, ModelPose b, double[] into)
    {
        for (var j = 0; j < _model.JointCount; j++)
        {
            var d = _model.FirstDof[j];
            var free = _model.Freedoms[j];
            var single = (free.Translates ? 3 : 0) + (free.Ball ? 0 : free.Axes.Count);
            for (var k = 0; k < single; k++, d++)
            {
                into[d] = b.Values[d] - a.Values[d];
            }

            if (free.Ball)
            {
                var turn = (a.Turns[j].Conjugate() * b.Turns[j]).Log();
                (into[d], into[d + 1], into[d + 2]) = (turn.X, turn.Y, turn.Z);
            }
        }
    }
}
