using Eidolon.Core.Markers;

namespace Eidolon.Core.Formats.C3d;

/// <summary>A C3D file: the markers in metres, Y up, and everything else it held, kept for the way back.</summary>
public sealed record C3dDocument(MarkerTake Take)
{
    /// <summary>Parameter groups in the file's order: group name → parameters.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<C3dParameter>> Groups { get; init; } =
        new Dictionary<string, IReadOnlyList<C3dParameter>>();

    /// <summary>Analog samples of all frames as scaled by nothing: [frame × samples × channels].</summary>
    public float[] Analog { get; init; } = [];

    /// <summary>Channels of the analog block; read past, never used.</summary>
    public int AnalogChannels { get; init; }

    /// <summary>Analog samples a channel has for each frame of the markers.</summary>
    public int AnalogSamplesPerFrame { get; init; }

    /// <summary>Metres per unit of the file.</summary>
    public double MetresPerUnit { get; init; } = 0.001;

    /// <summary>The file's unit name.</summary>
    public string Units { get; init; } = "mm";

    /// <summary>Which file axis points up: "X", "Y", "Z", with a minus sign when it points down.</summary>
    public string UpAxis { get; init; } = "Y";
}
