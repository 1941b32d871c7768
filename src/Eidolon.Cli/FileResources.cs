using Eidolon.Core;
using Eidolon.Core.Clipping;
using Eidolon.Core.Faces;
using Eidolon.Core.Hands;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Cli;

/// <summary>Resources of a command line: what its files hold.</summary>
internal sealed class FileResources : IResources
{
    public MarkerSet? Set { get; init; }

    public Performer? Body { get; init; }

    public GloveTake? Worn { get; init; }

    public FaceTake? Seen { get; init; }

    public IReadOnlyList<LabelSubject> Known { get; init; } = [];

    public MarkerSet MarkerSet() => Set ?? new MarkerSet("none", [], []);

    public UInt128 Hash(ResourceKey key) => 0;

    public TakePerformer Performer(int subject) => new(subject, null, Body ?? throw new RefusedException("no performer is given"));

    public IReadOnlyList<TakePerformer> Performers() => Body is null ? [] : [Performer(0)];

    public IReadOnlyList<LabelSubject> References(CancellationToken cancel) => Known;

    public (CentroidTake Seen, CameraRing Ring) Pictures() => throw new RefusedException("no pictures are given");

    public GloveTake Gloves(int subject, int recording = 1) => Worn ?? throw new RefusedException("no gloves are given");

    public FaceTake Face(int subject, int recording = 1) => Seen ?? throw new RefusedException("no face is given");

    public Skeleton Character(int subject) => throw new RefusedException("no character is given");

    public BodyVolumes Volumes(int subject) => throw new RefusedException("no character is given");

    public RigidBody Prop(int subject) => throw new RefusedException("no prop is given");

    public IReadOnlyList<RigidBody> Props() => [];
}
