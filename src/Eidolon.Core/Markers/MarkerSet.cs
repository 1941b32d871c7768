namespace Eidolon.Core.Markers;

/// <summary>The markers a performer wears, and the pairs whose distance hardly changes.</summary>
public sealed record MarkerSet(string Name, IReadOnlyList<MarkerDefinition> Markers, IReadOnlyList<(string A, string B)> Links)
{
    /// <summary>A marker by its name; null when the set has none so called.</summary>
    public MarkerDefinition? Find(string marker) => Markers.FirstOrDefault(m => m.Name == marker);
}
