using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>What operations may ask for by name; a production, or the files of a command line, answer.</summary>
public interface IResources
{
    MarkerSet MarkerSet();

    /// <summary>The calibrated performers of this take.</summary>
    Performer Performer();

    IReadOnlyList<LabelSubject> Subjects(CancellationToken cancel);

    /// <summary>A character's skeleton with roles.</summary>
    Skeleton Character(string name);

    /// <summary>The finished motion of another take on the same character.</summary>
    Motion Clip(string take, string character);
}
