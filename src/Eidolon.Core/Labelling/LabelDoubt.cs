namespace Eidolon.Core.Labelling;

/// <summary>A decision that needs a look.</summary>
public sealed record LabelDoubt(int Frame, string Marker, string Reason);
