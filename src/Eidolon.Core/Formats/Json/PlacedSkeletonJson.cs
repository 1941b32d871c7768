using System.Numerics;
using System.Text.Json;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Where joints stand in a mesh: <c>{ "joints": { "HandL": [x, y, z], … } }</c>, roles and metres in the mesh's axes.</summary>
public static class PlacedSkeletonJson
{
    /// <summary>The places of a file; joints it does not name are not in them.</summary>
    /// <exception cref="InvalidInputException">A role is none of a standard skeleton's, or a place no three numbers.</exception>
    public static Dictionary<BodyRole, Vector3> Read(byte[] bytes, string file) => JsonInput.Read(bytes, file, root =>
        {
            var places = new Dictionary<BodyRole, Vector3>();
            foreach (var p in JsonInput.Property(root, "joints", JsonValueKind.Object, "joints", file).EnumerateObject())
            {
                if (!Enum.TryParse<BodyRole>(p.Name, out var role) || PlacedSkeleton.Joints.All(j => j.Role != role))
                {
                    throw new InvalidInputException(file, $"joints.{p.Name}", "this is no joint of a standard skeleton");
                }

                places[role] = JsonInput.Vector(p.Value, $"joints.{p.Name}", file);
            }

            return places;
        });
}
