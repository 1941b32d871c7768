using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Clips joined into one motion.</summary>
/// <param name="Contacts">What a person has decided about contacts, in its frames.</param>
public sealed record BakedMotion(Motion Motion, IReadOnlyList<OverlapReport> Overlaps, IReadOnlyList<ContactEdit> Contacts);
