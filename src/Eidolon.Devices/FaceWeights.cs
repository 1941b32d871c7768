using Eidolon.Core.Faces;

namespace Eidolon.Devices;

/// <summary>What a face tracker sends: a weight for each action unit of the Facial Action Coding System, left and right apart.</summary>
public static class FaceWeights
{
    /// <summary>Frames a second.</summary>
    public const double Rate = 60;

    /// <summary>Names in the order they are sent.</summary>
    public static IReadOnlyList<string> Names => FaceUnits.Names;
}
