using System.Text.Json;

namespace Eidolon.Storage.Model;

/// <summary>What one device sent during a take, and its clock.</summary>
/// <param name="OffsetMilliseconds">Device clock minus studio clock as it was measured while recording.</param>
/// <param name="CorrectionMilliseconds">What a person added to it afterwards; positive moves the device's samples later.</param>
public sealed record TakeDevice(
    string Stream,
    string Name,
    long Packets,
    long Lost,
    double OffsetMilliseconds,
    double CorrectionMilliseconds = 0
)
{
    private static readonly JsonSerializerOptions Camel = new(JsonSerializerDefaults.Web);

    /// <summary>The devices of a take.</summary>
    public static IReadOnlyList<TakeDevice> Of(Take take) => JsonSerializer.Deserialize<TakeDevice[]>(take.Devices, Camel) ?? [];

    /// <summary>As it stands with the take.</summary>
    public static string Write(IEnumerable<TakeDevice> devices) => JsonSerializer.Serialize(devices, Camel);
}
