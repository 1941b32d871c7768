using Eidolon.Core.Clipping;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli;

/// <summary>What of a character may not go into the rest of it: fitted to its skin, or by average proportions where it has none.</summary>
internal static class CharacterVolumes
{
    /// <param name="bytes">The character's file.</param>
    /// <param name="skeleton">Its skeleton, with roles.</param>
    public static BodyVolumes Of(byte[] bytes, string file, Skeleton skeleton)
    {
        if (MotionFiles.KindOf(file, bytes) is not (FileKind.Glb or FileKind.Gltf))
        {
            return BodyVolumes.OfProportions(skeleton);
        }

        var model = GltfReader.Open(GltfReader.Packed(bytes, file, InputFile.FolderOf(file)), file);
        return VolumeFitter.Fit(skeleton, GltfSkinPoints.Of(GltfReader.GltfBindingOf(model, file)));
    }
}
