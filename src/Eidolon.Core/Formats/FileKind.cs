namespace Eidolon.Core.Formats;

/// <summary>The formats that can be told apart by name and first bytes.</summary>
public enum FileKind
{
    /// <summary>C3D: markers.</summary>
    C3d,

    /// <summary>BVH: a motion.</summary>
    Bvh,

    /// <summary>glTF 2.0 in one binary file: a motion or a character.</summary>
    Glb,

    /// <summary>glTF 2.0 as JSON with its buffers.</summary>
    Gltf,

    /// <summary>CSV: markers or dots.</summary>
    Csv,
}
