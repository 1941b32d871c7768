namespace Eidolon.Core.Labelling;

/// <summary>One fragment of a trajectory: the input column it comes from, its frames, its name and how sure that is (0 to 1).</summary>
public sealed record LabelledPiece(int Column, int Start, int End, string? Name, double Confidence, bool Pinned);
