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

    public IReadOnlyList<LabelSubject> Known { get; init; } = [];

    public MarkerSet MarkerSet() => Set ?? new MarkerSet("none", [], []);

    public Performer Performer() => Body ?? throw new ArgumentException("no performer is given");

    public IReadOnlyList<LabelSubject> Subjects(CancellationToken cancel) => Known;

    public (CentroidTake Seen, CameraRing Ring) Pictures() => throw new ArgumentException("no pictures are given");

    public Skeleton Character(string name) => throw new ArgumentException($"no character '{name}' is given");

    public Motion Clip(string take, string character) => throw new ArgumentException($"no clip '{take}' is given");
}
