namespace Eidolon.Core.Characters.Binding;

/// <summary>What a brush does to the weights under it.</summary>
public enum WeightBrush
{
    /// <summary>The bone gets more.</summary>
    Add,

    /// <summary>The bone gets less; what else a vertex follows, or the bone above, takes over.</summary>
    Remove,

    /// <summary>Each place comes nearer to what is around it, whatever the bone.</summary>
    Smooth,
}
