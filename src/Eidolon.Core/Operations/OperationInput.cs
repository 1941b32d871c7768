using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>What an operation works on.</summary>
/// <param name="Own">What the node holds before the entry; null when nothing stands before it.</param>
/// <param name="Inputs">The values of the nodes that this one stands on, in order.</param>
public sealed record OperationInput(NodeValue? Own, IReadOnlyList<NodeValue> Inputs)
{
    /// <summary>What the node holds before the operation; null for one that begins it.</summary>
    public OperationInput(NodeValue? own)
        : this(own, []) { }

    /// <summary>The node's own markers.</summary>
    /// <exception cref="RefusedException">It has none.</exception>
    public MarkerValue Markers => Own as MarkerValue ?? throw new RefusedException("the take has no markers");

    /// <summary>The markers that the node stands on.</summary>
    public MarkerTake MarkersBelow =>
        Inputs.OfType<MarkerValue>().FirstOrDefault()?.Take ?? throw new RefusedException("the take has no markers");

    /// <summary>The node's own motion.</summary>
    /// <param name="otherwise">What is to be done first, for the person.</param>
    public MotionValue Moving(string otherwise) => Own as MotionValue ?? throw new RefusedException(otherwise);
}
