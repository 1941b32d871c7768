using SharpGLTF.Schema2;
using SharpGLTF.Validation;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>A .gltf: JSON whose buffers are embedded in it or lie beside it in one folder. Nothing else is ever read for it.</summary>
internal static class GltfText
{
    /// <param name="folder">Where its buffers may lie; null where only embedded ones are read.</param>
    public static ModelRoot Open(byte[] bytes, string file, string? folder)
    {
        GltfGuard.Check(bytes, Size(bytes, folder), file);
        var context = ReadContext.Create(name => Beside(name, file, folder));
        context.Validation = ValidationMode.TryFix;
        using var stream = new MemoryStream(bytes, writable: false);
        return context.ReadTextSchema2(stream);
    }

    /// <summary>Bytes of a file with the buffers that may be its own.</summary>
    public static long Size(byte[] bytes, string? folder) =>
        bytes.LongLength
        + (folder is null || !Directory.Exists(folder) ? 0 : new DirectoryInfo(folder).EnumerateFiles("*.bin").Sum(f => f.Length));

    private static ArraySegment<byte> Beside(string name, string file, string? folder)
    {
        var plain = Uri.UnescapeDataString(name);
        if (folder is null)
        {
            throw new InvalidInputException(
                file,
                $"buffer '{plain}'",
                "it lies outside of the file: bring the motion in as .glb, or as .gltf with embedded buffers"
            );
        }

        return Path.GetFileName(plain) == plain
            ? new ArraySegment<byte>(InputFile.Read(Path.Combine(folder, plain)))
            : throw new InvalidInputException(file, $"buffer '{plain}'", "only files in the same folder are read");
    }
}
