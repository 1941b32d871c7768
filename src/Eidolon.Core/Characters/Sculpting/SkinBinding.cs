using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>Says how much each bone moves a place of the skin.</summary>
public abstract class SkinBinding
{
    /// <summary>Adds a share, divided among bones, to their weights.</summary>
    /// <param name="p">Place at rest, metres.</param>
    /// <param name="share">How much there is to divide.</param>
    /// <param name="weights">One a bone: joints of the skeleton, then helpers.</param>
    public abstract void Add(Vector3 p, float share, Span<float> weights);
}

/// <summary>Everything by one bone: hats, eyes, buckles.</summary>
public sealed class RigidBinding(int bone) : SkinBinding
{
    /// <inheritdoc/>
    public override void Add(Vector3 p, float share, Span<float> weights) => weights[bone] += share;
}

/// <summary>Bones one after the other, each taking over from the one before across a plane.</summary>
/// <param name="first">The bone before the first plane.</param>
/// <param name="steps">Where each next bone takes over, in order.</param>
public sealed class ChainBinding(int first, IReadOnlyList<ChainStep> steps) : SkinBinding
{
    /// <inheritdoc/>
    public override void Add(Vector3 p, float share, Span<float> weights)
    {
        var (bone, left) = (first, share);
        foreach (var step in steps)
        {
            var past = step.Past(p) * left;
            weights[bone] += left - past;
            (bone, left) = (step.Bone, past);
        }

        weights[bone] += left;
    }
}

/// <summary>A plane across a limb.</summary>
/// <param name="Bone">Who takes over beyond it.</param>
/// <param name="At">A place on it, metres.</param>
/// <param name="Along">Unit vector across it, towards the bone's end.</param>
/// <param name="Half">Half of the width over which it goes over, metres.</param>
public readonly record struct ChainStep(int Bone, Vector3 At, Vector3 Along, float Half)
{
    /// <summary>How far a place has gone over, 0 to 1.</summary>
    public float Past(Vector3 p) => Ease.Smooth((Vector3.Dot(p - At, Along) / (2 * Half)) + .5f);
}

/// <summary>Several bindings, each with a share of its own at each place: skirts that follow both legs.</summary>
/// <param name="shares">One share a binding at a place, summing to one.</param>
public sealed class MixedBinding(IReadOnlyList<SkinBinding> bindings, Action<Vector3, float[]> shares) : SkinBinding
{
    [ThreadStatic]
    private static float[]? _own;

    /// <inheritdoc/>
    public override void Add(Vector3 p, float share, Span<float> weights)
    {
        _own = _own is { } o && o.Length == bindings.Count ? o : new float[bindings.Count];
        shares(p, _own);
        for (var i = 0; i < bindings.Count; i++)
        {
            bindings[i].Add(p, share * _own[i], weights);
        }
    }
}
