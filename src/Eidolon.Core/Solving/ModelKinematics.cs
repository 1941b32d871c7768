using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>World frames of a pose, marker places, and the motion that each degree of freedom causes.</summary>
internal sealed class ModelKinematics
{
    private readonly ArticulatedModel _model;

    public ModelKinematics(ArticulatedModel model)
    {
        _model = model;
        Rotation = new Matrix3d[model.JointCount];
        Position = new Vector3d[model.JointCount];
        Markers = new Vector3d[model.MarkerCount];
        Angular = new Vector3d[model.DofCount];
        Linear = new Vector3d[model.DofCount];
    }

    public Matrix3d[] Rotation { get; }

    public Vector3d[] Position { get; }

    public Vector3d[] Markers { get; }

    /// <summary>ω of each degree of freedom: a point p it carries moves by v + ω × p.</summary>
    public Vector3d[] Angular { get; }

    /// <summary>v of each degree of freedom.</summary>
    public Vector3d[] Linear { get; }

    public void Update(ModelPose pose, bool withMotions)
    {
        var m = _model;
        for (var j = 0; j < m.JointCount; j++)
        {
            var parent = m.Parents[j];
            var r = parent < 0 ? Matrix3d.Identity : Rotation[parent];
            var p = parent < 0 ? m.Offsets[j] : Position[parent] + (r * m.Offsets[j]);
            var free = m.Freedoms[j];
            var d = m.FirstDof[j];
            if (free.Translates)
            {
                p += r * new Vector3d(pose.Values[d], pose.Values[d + 1], pose.Values[d + 2]);
                for (var k = 0; k < 3; k++, d++)
                {
                    Angular[d] = default;
                    Linear[d] = r.Column(k);
                }
            }

            if (free.Ball)
            {
                r *= pose.Turns[j].ToMatrix();
                if (withMotions)
                {
                    for (var k = 0; k < 3; k++)
                    {
                        SetTurn(d + k, r.Column(k), p);
                    }
                }
            }
            else
            {
                var axes = free.Axes;
                for (var k = 0; k < axes.Count; k++, d++)
                {
                    if (withMotions)
                    {
                        SetTurn(d, r.Column(axes[k]), p);
                    }

                    r = r.TurnedAbout(axes[k], pose.Values[d]);
                }
            }

            Rotation[j] = r;
            Position[j] = p;
        }

        for (var i = 0; i < m.MarkerCount; i++)
        {
            var j = m.MarkerJoints[i];
            Markers[i] = Position[j] + (Rotation[j] * m.MarkerOffsets[i]);
        }
    }

    private void SetTurn(int dof, Vector3d axis, Vector3d through)
    {
        Angular[dof] = axis;
        Linear[dof] = Vector3d.Cross(through, axis);
    }
}
