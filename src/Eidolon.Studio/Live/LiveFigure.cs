using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Live;

/// <summary>A performer on the Stage: where the ring has them, and where it does not see them, as their suit has them.</summary>
internal sealed class LiveFigure(LiveBody ring, Func<SuitPose?>? suit)
{
    private SuitPose? _worn;

    public LiveBody Ring => ring;

    /// <summary>The performer's own skeleton, metres.</summary>
    public Skeleton Skeleton => ring.Skeleton;

    /// <summary>Somebody is to be seen.</summary>
    public bool Found => ring.Found || BySuit;

    /// <summary>The suit alone says where they are.</summary>
    public bool BySuit => !ring.Found && _worn is not null;

    /// <summary>Root place and local turns as they are to be shown.</summary>
    public (Vector3 Root, ReadOnlyMemory<Quaternion> Turns) Shown => BySuit ? (_worn!.Root, _worn.Turns) : ring.Shown;

    /// <summary>Takes the newest of both; once for each packet.</summary>
    public void Take(double timeConstant, double step)
    {
        _worn = suit?.Invoke();
        ring.Smooth(timeConstant, step);
    }
}
