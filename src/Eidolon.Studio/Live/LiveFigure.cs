using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Live;

/// <summary>A performer on the Stage: where the ring has them, and where it does not see them, as their suit has them.</summary>
internal sealed class LiveFigure(LiveBody ring, Func<SuitPose?>? suit)
{
    private SuitPose? _worn;
    private bool _silent;

    public LiveBody Ring => ring;

    /// <summary>The performer's own skeleton, metres.</summary>
    public Skeleton Skeleton => ring.Skeleton;

    /// <summary>Somebody is to be seen.</summary>
    public bool Found => (ring.Found && !_silent) || BySuit;

    /// <summary>The suit alone says where they are.</summary>
    public bool BySuit => (_silent || !ring.Found) && _worn is not null;

    /// <summary>Root place and local turns as they are to be shown.</summary>
    public (Vector3 Root, ReadOnlyMemory<Quaternion> Turns) Shown => BySuit ? (_worn!.Root, _worn.Turns) : ring.Shown;

    /// <summary>Takes the newest of both; once for each packet.</summary>
    /// <param name="silent">No camera sends: where the ring saw them last they are not any more.</param>
    public void Take(double timeConstant, double step, bool silent)
    {
        (_worn, _silent) = (suit?.Invoke(), silent);
        ring.Smooth(timeConstant, step);
    }
}
