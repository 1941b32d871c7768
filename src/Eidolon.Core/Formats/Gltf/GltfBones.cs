using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Retargeting;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Bones without a mesh as a character.</summary>
public static class GltfBones
{
    /// <summary>The skeleton of a BVH file with a block for each bone: a binary glTF at rest, stood on the floor.</summary>
    /// <remarks>Where a BVH has its root at rest says nothing: recordings write its height into the motion.</remarks>
    /// <exception cref="InvalidInputException">It cannot be read, or holds no bone.</exception>
    public static byte[] FromBvh(byte[] bvh, string file)
    {
        var came = BvhReader.Read(bvh, file).Skeleton;
        var skeleton = RestStraightening.Raised(came, -GroundLevel.Floor(came));
        var mesh = BoneFigure.Of(skeleton);
        return mesh.Positions.Length == 0
            ? throw new InvalidInputException(file, "joints", "it holds no bone: every joint lies on its parent")
            : GltfSkinWriter.Write(skeleton, mesh, Path.GetFileNameWithoutExtension(file));
    }
}
