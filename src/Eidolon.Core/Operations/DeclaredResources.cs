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
/// The resources an operation said it reads, and no others. The key of a result is made of these; an operation that used more would keep
/// old results when that changes, so it is stopped as the bug it is.
/// </summary>
internal sealed class DeclaredResources(IResources all, IReadOnlyCollection<ResourceKey> declared) : IResources
{
    public UInt128 Hash(ResourceKey key) => Of(key).Hash(key);

    public MarkerSet MarkerSet() => Of(new(ResourceKind.MarkerSet)).MarkerSet();

    public TakePerformer Performer(int subject) => Of(new(ResourceKind.Performer, subject)).Performer(subject);

    public IReadOnlyList<TakePerformer> Performers() => Of(new(ResourceKind.Performers)).Performers();

    public IReadOnlyList<LabelSubject> References(CancellationToken cancel) => Of(new(ResourceKind.References)).References(cancel);

    public (CentroidTake Seen, CameraRing Ring) Pictures() => Of(new(ResourceKind.Pictures)).Pictures();

    public GloveTake Gloves(int subject, int recording = 1) => Of(new(ResourceKind.Gloves, subject, recording)).Gloves(subject, recording);

    public FaceTake Face(int subject, int recording = 1) => Of(new(ResourceKind.Face, subject, recording)).Face(subject, recording);

    public Skeleton Character(int subject) => Of(new(ResourceKind.Character, subject)).Character(subject);

    public BodyVolumes Volumes(int subject) => Of(new(ResourceKind.Character, subject)).Volumes(subject);

    public RigidBody Prop(int subject) => Of(new(ResourceKind.Prop, subject)).Prop(subject);

    public IReadOnlyList<RigidBody> Props() => Of(new(ResourceKind.Props)).Props();

    private IResources Of(ResourceKey key) =>
        declared.Contains(key) ? all : throw new InvalidOperationException($"the operation reads {key} without having said so");
}
