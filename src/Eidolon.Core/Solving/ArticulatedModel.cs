using Eidolon.Core.Geometry;

namespace Eidolon.Core.Solving;

/// <summary>A tree of joints with degrees of freedom, and points (markers) fixed to its joints. Lengths in metres.</summary>
public sealed class ArticulatedModel
{
    /// <summary>A tree of joints with their freedoms, and the markers that hang on them.</summary>
    public ArticulatedModel(
        IReadOnlyList<int> parents,
        IReadOnlyList<Vector3d> offsets,
        IReadOnlyList<JointFreedom> freedoms,
        IReadOnlyList<int> markerJoints,
        IReadOnlyList<Vector3d> markerOffsets
    )
    {
        Parents = [.. parents];
        Offsets = [.. offsets];
        Freedoms = [.. freedoms];
        MarkerJoints = [.. markerJoints];
        MarkerOffsets = [.. markerOffsets];
        MarkerWeights = new double[MarkerCount];
        Array.Fill(MarkerWeights, 1);
        FirstDof = new int[JointCount];
        var chain = new List<int>();
        var last = new int[JointCount];
        for (var j = 0; j < JointCount; j++)
        {
            FirstDof[j] = chain.Count;
            last[j] = Parents[j] < 0 ? -1 : last[Parents[j]];
            var count = Freedoms[j].Count;
            for (var k = 0; k < count; k++)
            {
                chain.Add(last[j]);
                last[j] = chain.Count - 1;
            }
        }

        DofParents = [.. chain];
        Rows = new TreeRows(chain);
        LastDof = last;
    }

    /// <summary>Joints.</summary>
    public int JointCount => Parents.Length;

    /// <summary>Markers.</summary>
    public int MarkerCount => MarkerJoints.Length;

    /// <summary>Degrees of freedom: three of travel, then the turns of all joints.</summary>
    public int DofCount => DofParents.Length;

    /// <summary>Parent of each joint, −1 for the root; every parent before its children.</summary>
    public int[] Parents { get; }

    /// <summary>Place of each joint in its parent's frame; calibration changes them.</summary>
    public Vector3d[] Offsets { get; }

    /// <summary>How each joint can turn.</summary>
    public JointFreedom[] Freedoms { get; }

    /// <summary>The joint each marker hangs on.</summary>
    public int[] MarkerJoints { get; }

    /// <summary>Place of each marker in its joint's frame; calibration changes them.</summary>
    public Vector3d[] MarkerOffsets { get; }

    /// <summary>How much each marker counts, 1 for a full one.</summary>
    public double[] MarkerWeights { get; }

    /// <summary>First degree of freedom of each joint.</summary>
    internal int[] FirstDof { get; }

    /// <summary>The last degree of freedom that moves each joint, −1 for none.</summary>
    internal int[] LastDof { get; }

    /// <summary>The next degree of freedom towards the root, −1 at the root: the sparsity of the normal equations.</summary>
    internal int[] DofParents { get; }

    /// <summary>Where the entries of the normal equations lie.</summary>
    internal TreeRows Rows { get; }
}
