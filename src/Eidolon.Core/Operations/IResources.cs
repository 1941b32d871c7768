using Eidolon.Core.Clipping;
using Eidolon.Core.Faces;
using Eidolon.Core.Hands;
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

    /// <summary>The set that is worn.</summary>
    MarkerSet MarkerSet();

    /// <summary>A performer as it is measured now.</summary>
    /// <exception cref="RefusedException">It is not measured.</exception>
    TakePerformer Performer(int subject);

    /// <summary>All performers of the take, those measured only.</summary>
    IReadOnlyList<TakePerformer> Performers();

    /// <summary>Bodies that labels are found by: measured ones, and guessed ones for those who are not.</summary>
    IReadOnlyList<LabelSubject> References(CancellationToken cancel);

    /// <summary>Raw 2D of the take and the ring that recorded it.</summary>
    (CentroidTake Seen, CameraRing Ring) Pictures();

    /// <summary>What a performer's gloves measured in the take.</summary>
    /// <param name="recording">Which of several recordings, from 1.</param>
    /// <exception cref="RefusedException">None were worn, or that recording is gone.</exception>
    GloveTake Gloves(int subject, int recording = 1);

    /// <summary>What a face tracker saw of a performer in the take.</summary>
    /// <param name="recording">Which of several recordings, from 1.</param>
    /// <exception cref="RefusedException">No face was recorded, or that recording is gone.</exception>
    FaceTake Face(int subject, int recording = 1);

    /// <summary>A character's skeleton with roles.</summary>
    Skeleton Character(int subject);

    /// <summary>What of a character may not go into the rest of it, fitted to its skin.</summary>
    BodyVolumes Volumes(int subject);

    /// <summary>A prop's markers.</summary>
    /// <exception cref="RefusedException">There is no such prop.</exception>
    RigidBody Prop(int subject);

    /// <summary>Every prop of the take that has markers.</summary>
    IReadOnlyList<RigidBody> Props();
}
