using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Devices;

/// <summary>The stand-in suit: seventeen sensors at 100 Hz, on battery, its clock a little ahead.</summary>
public sealed class SuitStandIn : StandInDevice
{
    private const int Slipped = 7;
    private readonly int _width = SuitSensors.Bones.Count * SuitSensors.Values;
    private readonly Lock _lock = new();
    private float[] _values = [];
    private double _seconds;

    public override DeviceKind Kind => DeviceKind.Suit;

    public override double Rate => SuitSensors.Rate;

    public override double ClockAhead => 0.011;

    public override byte? Battery(double seconds) => (byte)Math.Clamp(64 - (seconds / 90), 1, 100);

    public void Perform(string scene, Person person, int take)
    {
        var performance = SceneCatalog.Perform(scene, person, take, SuitSensors.Rate);
        var actor = performance.Actors.FirstOrDefault(a => a.Person == person) ?? performance.Actors[0];
        var values = SuitSimulator.Measure(actor, person.Seed);
        lock (_lock)
        {
            (_values, _seconds) = (values, performance.Seconds);
        }
    }

    /// <summary>What the sensors measure when the movement is gone back through: it turns the other way; accelerations and the field are the same.</summary>
    private static Span<float> Backwards(ReadOnlySpan<float> values)
    {
        var back = values.ToArray();
        for (var sensor = 0; sensor < back.Length; sensor += SuitSensors.Values)
        {
            for (var axis = 0; axis < 3; axis++)
            {
                back[sensor + axis] = -back[sensor + axis];
            }
        }

        return back;
    }

    public override int Payload(int source, double time, Span<byte> payload)
    {
        lock (_lock)
        {
            if (_values.Length == 0)
            {
                return -1;
            }

            var values = _values.AsSpan(Scenes.Frame(time, _seconds, Rate, _values.Length / _width) * _width, _width);
            if (Scenes.Back(time, _seconds))
            {
                values = Backwards(values);
            }

            var size = FloatPayload.Write(payload, values);
            if (Broken("sensor-slipped"))
            {
                // A strap turned: two axes of the left forearm trade places.
                Span<byte> x = stackalloc byte[4];
                for (var k = 0; k < SuitSensors.Values; k += 3)
                {
                    var at = ((Slipped * SuitSensors.Values) + k) * 4;
                    payload.Slice(at, 4).CopyTo(x);
                    payload.Slice(at + 4, 4).CopyTo(payload[at..]);
                    x.CopyTo(payload[(at + 4)..]);
                }
            }

            return size;
        }
    }
}
