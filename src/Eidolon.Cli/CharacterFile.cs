using Eidolon.Core.Clipping;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli;

/// <summary>A character's file: what its body is, and the same file with a motion.</summary>
internal static class CharacterFile
{
    /// <summary>What of it may not go into the rest of it: fitted to its skin, or by average proportions where it has none.</summary>
    /// <param name="bytes">The character's file.</param>
    /// <param name="skeleton">Its skeleton, with roles.</param>
    public static BodyVolumes Volumes(byte[] bytes, string file, Skeleton skeleton)
    {
        if (MotionFiles.KindOf(file, bytes) is not (FileKind.Glb or FileKind.Gltf))
        {
            return BodyVolumes.OfProportions(skeleton);
        }

        var model = GltfReader.Open(GltfReader.Packed(bytes, file, InputFile.FolderOf(file)), file);
        return VolumeFitter.Fit(skeleton, GltfSkinPoints.Of(GltfReader.GltfBindingOf(model, file)));
    }

    /// <summary>A motion as the output's ending asks for it; a GLB of a character that came as one keeps meshes, materials and nodes.</summary>
    /// <param name="bytes">The character's file.</param>
    public static void Write(string output, byte[] bytes, string file, Motion motion)
    {
        if (
            Path.GetExtension(output).Equals(".glb", StringComparison.OrdinalIgnoreCase)
            && MotionFiles.KindOf(file, bytes) is FileKind.Glb or FileKind.Gltf
        )
        {
            var packed = GltfReader.Packed(bytes, file, InputFile.FolderOf(file));
            AtomicFile.Write(output, s => GltfWriter.WriteCharacter(s, packed, file, motion));
        }
        else
        {
            MotionFiles.WriteMotion(output, motion);
        }
    }
}
