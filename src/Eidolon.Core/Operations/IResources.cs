using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
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

    /// <summary>Raw 2D of the take and the ring that recorded it.</summary>
    /// <exception cref="ArgumentException">The take has none.</exception>
    (CentroidTake Seen, CameraRing Ring) Pictures();

    /// <summary>A character's skeleton with roles.</summary>
    Skeleton Character(string name);

    /// <summary>The finished motion of another take on the same character.</summary>
    Motion Clip(string take, string character);
}
