namespace Eidolon.Core.Formats;

/// <summary>The formats that can be told apart by name and first bytes.</summary>
public enum FileKind
{
    C3d,
    Bvh,
    Glb,
    Gltf,
    Csv,
}
