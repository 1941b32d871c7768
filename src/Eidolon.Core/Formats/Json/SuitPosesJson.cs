using System.Text.Json;
using Eidolon.Core.Inertial;

namespace Eidolon.Core.Formats.Json;

/// <summary>The calibrating ranges of a suit's recording: <c>{ "still": [a,b], "tPose": [a,b], "aPose": [a,b] }</c>, frames, both inside.</summary>
public static class SuitPosesJson
{
    /// <summary>Reads the three ranges.</summary>
    /// <exception cref="InvalidInputException">One is missing or no range; says which.</exception>
    public static SuitPoses Read(byte[] bytes, string file) =>
        JsonInput.Read(bytes, file, root => new SuitPoses(
            Range(root, "still", file),
            Range(root, "tPose", file),
            Range(root, "aPose", file)
        ));

    private static FrameRange Range(JsonElement root, string name, string file)
    {
        var e = JsonInput.Property(root, name, JsonValueKind.Array, name, file);
        return e.GetArrayLength() == 2 && e[0].TryGetInt32(out var start) && e[1].TryGetInt32(out var end) && start >= 0 && end >= start
            ? new FrameRange(start, end)
            : throw new InvalidInputException(file, name, "two frame numbers are expected, the second not before the first");
    }
}
