using Eidolon.Studio.Live.Devices;

namespace Eidolon.Studio.Live;

/// <summary>What the page shows while it is open: the recorder, the rack, the stage.</summary>
/// <param name="Seconds">Of the recording, or still to count in.</param>
/// <param name="Kept">Frames that are safely stored.</param>
/// <param name="BehindMilliseconds">From a frame's last packet to the page: half of all frames, 99 of 100.</param>
/// <param name="Said">What the recorder has to say, e.g. that nothing was kept; empty otherwise.</param>
public sealed record RecorderStatus(
    string State,
    double Seconds,
    int Frames,
    int Kept,
    int TakeId,
    string TakeName,
    double WriteMegabytesPerSecond,
    double BehindMilliseconds,
    double BehindMost,
    long LeftOut,
    LiveView View,
    IReadOnlyList<DeviceStatus> Devices,
    RingPreparationStatus Ring,
    IReadOnlyList<Check> Checks,
    string Said
);
