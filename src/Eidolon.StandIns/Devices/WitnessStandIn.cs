using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.StandIns.Devices;

/// <summary>One stand-in witness camera: body and hand points at 30 frames a second, and the strokes of its picture.</summary>
public sealed class WitnessStandIn(int camera) : StandInDevice
{
    private readonly Lock _lock = new();
    private float[] _values = [];
    private double _seconds;

    public override DeviceKind Kind => DeviceKind.Witness;

    public override double Rate => WitnessPoints.Rate;

    public override double ClockAhead => 0.038 + (0.003 * camera);

    public void Perform(string scene, Person person, int take)
    {
        var performance = SceneCatalog.Perform(scene, person, take, WitnessPoints.Rate);
        var values = WitnessSimulator.See(performance, camera, (take * 31) + camera);
        lock (_lock)
        {
            (_values, _seconds) = (values, performance.Seconds);
        }
    }

    public override int Payload(int source, double time, Span<byte> payload)
    {
        lock (_lock)
        {
            return _values.Length == 0
                ? -1
                : FloatPayload.Write(
                    payload,
                    _values.AsSpan(
                        Scenes.Frame(time, _seconds, Rate, _values.Length / WitnessPoints.Values) * WitnessPoints.Values,
                        WitnessPoints.Values
                    )
                );
        }
    }
}
