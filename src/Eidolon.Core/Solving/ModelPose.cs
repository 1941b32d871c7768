using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>A pose of an <see cref="ArticulatedModel"/>: ball joints as quaternions, everything else as numbers.</summary>
public sealed class ModelPose
{
    /// <summary>The pose with no turns, at the origin.</summary>
    public ModelPose(ArticulatedModel model)
    {
        Turns = new Quaterniond[model.JointCount];
        Array.Fill(Turns, Quaterniond.Identity);
        Values = new double[model.DofCount];
    }

    /// <summary>Ball joints' turns in the parent's frame.</summary>
    public Quaterniond[] Turns { get; }

    /// <summary>Translations (metres) and single turns (radians) by degree of freedom; ball joints' places are unused.</summary>
    public double[] Values { get; }

    /// <summary>The turn of a joint in its parent's frame, whichever kind it is.</summary>
    public Quaterniond TurnOf(ArticulatedModel model, int joint)
    {
        var free = model.Freedoms[joint];
        if (free.Ball)
        {
            return Turns[joint];
        }

        var q = Quaterniond.Identity;
        var d = model.FirstDof[joint] + (free.Translates ? 3 : 0);
        foreach (var axis in free.Axes)
        {
            var h = Values[d++];
            q *= axis switch
            {
                0 => Quaterniond.Exp(h, 0, 0),
                1 => Quaterniond.Exp(0, h, 0),
                _ => Quaterniond.Exp(0, 0, h),
            };
        }

        return q.Normalized();
    }

    /// <summary>Takes over another pose of the same model.</summary>
    public void CopyFrom(ModelPose other)
    {
        other.Turns.CopyTo(Turns, 0);
        other.Values.CopyTo(Values, 0);
    }

    /// <summary>Adds a step: ball joints turn about their own axes, the rest is summed.</summary>
    public void Step(ArticulatedModel model, ModelPose from, ReadOnlySpan<double> delta)
    {
        for (var j = 0; j < model.JointCount; j++)
        {
            var d = model.FirstDof[j];
            var free = model.Freedoms[j];
            if (free.Translates)
            {
                for (var k = 0; k < 3; k++, d++)
                {
                    Values[d] = from.Values[d] + delta[d];
                }
            }

            if (free.Ball)
            {
                Turns[j] = (from.Turns[j] * Quaterniond.Exp(delta[d], delta[d + 1], delta[d + 2])).Normalized();
                continue;
            }

            for (var k = 0; k < free.Axes.Count; k++, d++)
            {
                Values[d] = from.Values[d] + delta[d];
            }
        }
    }
}
