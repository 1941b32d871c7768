namespace Eidolon.Core.Retargeting;

/// <summary>Place and Turn of a Hold at a frame, 0 to 1.</summary>
public readonly record struct HoldKey(int Frame, float Place, float Turn);
