using Eidolon.Studio.Services;

namespace Eidolon.Studio.Live.Devices;

/// <summary>All devices of the stage, listening as long as the studio runs.</summary>
public sealed class DeviceRack : BackgroundService
{
    private readonly List<UdpDeviceSource> _devices;
    private readonly Faults _faults;

    public DeviceRack(StageSettings stage, Faults faults, ILogger<DeviceRack> log)
    {
        _faults = faults;
        _devices =
        [
            new(
                "ring",
                "Camera ring",
                $"{stage.Ring.Cameras} cameras",
                DeviceKind.Ring,
                RingDescription.MostCameras,
                stage.Rate,
                7401,
                p => p.Length % 4 == 0 && p.Length / 4 <= RingPayload.MostCentroids,
                log
            ),
            new(
                "suit",
                "Inertial suit",
                "17 sensors",
                DeviceKind.Suit,
                1,
                SuitSensors.Rate,
                7412,
                p => Floats(p, SuitSensors.Bones.Count * SuitSensors.Values),
                log
            ),
            .. Enumerable
                .Range(0, 3)
                .Select(i => new UdpDeviceSource(
                    $"witness-{i + 1}",
                    $"Witness camera {i + 1}",
                    $"film tracker {i + 1}",
                    DeviceKind.Witness,
                    1,
                    WitnessPoints.Rate,
                    7431 + i,
                    p => Floats(p, WitnessPoints.Values),
                    log
                )),
            new(
                "face",
                "Face",
                $"{FaceWeights.Names.Count} weights",
                DeviceKind.Face,
                1,
                FaceWeights.Rate,
                7440,
                p => Floats(p, FaceWeights.Names.Count),
                log
            ),
        ];
    }

    public IReadOnlyList<UdpDeviceSource> Devices => _devices;

    public UdpDeviceSource Ring => _devices[0];

    public IEnumerable<DeviceStatus> Status() => _devices.Select(d => d.Meter.Status(d));

    public UdpDeviceSource? Find(string stream) => _devices.Find(d => d.Stream == stream);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await Task.WhenAll(_devices.Select(d => _faults.Until(d.Name, () => d.Run(stoppingToken), stoppingToken)));
        }
        catch (OperationCanceledException)
        {
            // The studio stops.
        }
    }

    public override void Dispose()
    {
        _devices.ForEach(d => d.Dispose());
        base.Dispose();
    }

    private static bool Floats(ReadOnlyMemory<byte> payload, int count)
    {
        if (payload.Length != count * 4)
        {
            return false;
        }

        Span<float> values = stackalloc float[512];
        return FloatPayload.TryRead(payload.Span, values[..count]);
    }
}
