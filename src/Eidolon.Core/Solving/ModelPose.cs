using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>A pose of an <see cref="ArticulatedModel"/>: ball joints as quaternions, everything else as numbers.</summary>
public sealed class ModelPose
{
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
