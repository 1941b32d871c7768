using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Clips joined into one motion.</summary>
/// <param name="Contacts">What a person has decided about contacts, in its frames.</param>
/// <param name="Cuts">What of each clip is used, in frames of it as it is played, end exclusive: a best moment leaves out what comes after and before.</param>
public sealed record BakedMotion(
    Motion Motion,
    IReadOnlyList<OverlapReport> Overlaps,
    IReadOnlyList<ContactEdit> Contacts,
    IReadOnlyList<(int Start, int End)> Cuts
);
