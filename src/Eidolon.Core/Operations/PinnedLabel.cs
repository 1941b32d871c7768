namespace Eidolon.Core.Operations;

/// <summary>A name given by hand, frames inclusive.</summary>
public readonly record struct PinnedLabel(string Name, int Start, int End);
