using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>A tree of joints, parents first. Immutable.</summary>
public sealed class Skeleton
{
    /// <summary>Joints of one skeleton lie no farther apart than this in another that is taken for it, metres.</summary>
    private const float SameBone = 0.002f;

    private readonly Dictionary<string, int> _byName;
    private readonly Dictionary<BodyRole, int> _byRole = [];
    private readonly Joint[] _joints;
    private readonly int[] _parents;

    /// <summary>Joints with every parent before its children.</summary>
    /// <exception cref="ArgumentException">A parent comes late or two joints have one name.</exception>
    public Skeleton(IEnumerable<Joint> joints)
    {
        _joints = [.. joints];
        if (_joints.Length == 0)
        {
            throw new ArgumentException("A skeleton needs at least one joint.", nameof(joints));
        }

        _parents = Array.ConvertAll(_joints, j => j.Parent);
        _byName = new Dictionary<string, int>(_joints.Length, StringComparer.Ordinal);
        for (var i = 0; i < _joints.Length; i++)
        {
            if (_parents[i] >= i || _parents[i] < -1)
            {
                throw new ArgumentException($"Joint '{_joints[i].Name}' comes before its parent.", nameof(joints));
            }

            if (!_byName.TryAdd(_joints[i].Name, i))
            {
                throw new ArgumentException($"Two joints are called '{_joints[i].Name}'.", nameof(joints));
            }

            if (_joints[i].Role is { } role)
            {
                _byRole.TryAdd(role, i);
            }
        }

        RestRotations = new Quaternion[Count];
        RestPositions = new Vector3[Count];
        var local = Array.ConvertAll(_joints, j => j.RestRotation);
        var offsets = Array.ConvertAll(_joints, j => j.Offset);
        ForwardKinematics.World(this, local, offsets, RestRotations, RestPositions);
    }

    /// <summary>Joints.</summary>
    public int Count => _joints.Length;

    /// <summary>Every parent before its children.</summary>
    public IReadOnlyList<Joint> Joints => _joints;

    /// <summary>Parent of each joint, −1 for roots.</summary>
    public ReadOnlySpan<int> Parents => _parents;

    /// <summary>World turn of each joint at rest.</summary>
    public Quaternion[] RestRotations { get; }

    /// <summary>World place of each joint at rest, metres.</summary>
    public Vector3[] RestPositions { get; }

    /// <summary>A joint by its index.</summary>
    public Joint this[int index] => _joints[index];

    /// <summary>Index of a joint by name, −1 when there is none.</summary>
    public int IndexOf(string name) => _byName.GetValueOrDefault(name, -1);

    /// <summary>Index of the joint that plays a role, −1 when none does.</summary>
    public int IndexOf(BodyRole role) => _byRole.GetValueOrDefault(role, -1);

    /// <summary>How far two joints stand apart at rest, metres; null where one of the roles is not played.</summary>
    public float? Between(BodyRole a, BodyRole b) =>
        IndexOf(a) is >= 0 and var i && IndexOf(b) is >= 0 and var j ? (RestPositions[i] - RestPositions[j]).Length() : null;

    /// <summary>
    /// The first joint that is another one in a skeleton of as many joints: by its name, its parent, or its place against it; null where both are one.
    /// </summary>
    public int? FirstOther(Skeleton other)
    {
        for (var j = 0; j < Math.Min(Count, other.Count); j++)
        {
            var (a, b) = (this[j], other[j]);
            if (a.Name != b.Name || a.Parent != b.Parent || (a.Parent >= 0 && (a.Offset - b.Offset).Length() > SameBone))
            {
                return j;
            }
        }

        return null;
    }

    /// <summary>Joints that hang on this one.</summary>
    public IEnumerable<int> Children(int index)
    {
        for (var i = index + 1; i < Count; i++)
        {
            if (_parents[i] == index)
            {
                yield return i;
            }
        }
    }

    /// <summary>A joint and all that hangs from it, parents before children; empty for −1.</summary>
    public int[] Branch(int index)
    {
        var inside = new bool[Count];
        for (var j = Math.Max(0, index); index >= 0 && j < Count; j++)
        {
            inside[j] = j == index || (_parents[j] >= 0 && inside[_parents[j]]);
        }

        return [.. Enumerable.Range(0, Count).Where(j => inside[j])];
    }

    /// <summary>The same tree with roles set by joint name; other joints play none.</summary>
    public Skeleton WithRoles(IReadOnlyDictionary<BodyRole, string> roles)
    {
        var names = roles.ToDictionary(r => r.Value, r => r.Key, StringComparer.Ordinal);
        return new Skeleton(_joints.Select(j => j with { Role = names.TryGetValue(j.Name, out var r) ? r : null }));
    }
}
