using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>
/// What operations may ask for; a production, or the files of a command line, answer. Everything missing is a <see cref="RefusedException"/>
/// with words.
/// </summary>
public interface IResources
{
    /// <summary>A hash of what the resource holds now: equal hashes, equal content.</summary>
    UInt128 Hash(ResourceKey key);

    MarkerSet MarkerSet();

    TakePerformer Performer(int subject);

    IReadOnlyList<TakePerformer> Performers();

    IReadOnlyList<LabelSubject> References(CancellationToken cancel);

    /// <summary>Raw 2D of the take and the ring that recorded it.</summary>
    (CentroidTake Seen, CameraRing Ring) Pictures();

    /// <summary>A character's skeleton with roles.</summary>
    Skeleton Character(int subject);

    RigidBody Prop(int subject);

    /// <summary>Every prop of the take that has markers.</summary>
    IReadOnlyList<RigidBody> Props();
}
