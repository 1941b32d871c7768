namespace Eidolon.Devices;

/// <summary>A line of the rack.</summary>
/// <param name="Rate">Packets (ring: frames) a second.</param>
/// <param name="OffsetMilliseconds">How far the device's clock is ahead of the studio's.</param>
/// <param name="History">Packets in each fifth of a second over the last 20 s, negative where some were lost.</param>
public sealed record DeviceStatus(
    string Stream,
    string Name,
    string Detail,
    string Arrives,
    string From,
    bool Connected,
    double Rate,
    long Lost,
    long Bad,
    double LatencyMilliseconds,
    int? Battery,
    double OffsetMilliseconds,
    string LastError,
    IReadOnlyList<int> History
);
