using CsCheck;
using Eidolon.Devices;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;

namespace Eidolon.Core.Tests.StandIns;

public sealed class DevicePacketTests
{
    [Fact]
    public void A_packet_comes_back() =>
        Gen.Select(Gen.Int[0, 1 << 20], Gen.UInt, Gen.Double[0, 2e9])
            .Sample(
                (seed, sequence, clock) =>
                {
                    var random = new Random(seed);
                    var u = Enumerable.Range(0, random.Next(120)).Select(_ => random.NextSingle() * 2047).ToArray();
                    var v = u.Select(_ => random.NextSingle() * 1535).ToArray();
                    var buffer = new byte[DevicePacket.Largest];
                    var size = new DevicePacket(DeviceKind.Ring, 7, null, sequence, clock).Write(
                        buffer,
                        RingPayload.Write(buffer.AsSpan(DevicePacket.Header), u, v)
                    );
                    Assert.True(DevicePacket.TryRead(buffer.AsSpan(0, size), out var packet, out var payload));
                    Assert.Equal(new DevicePacket(DeviceKind.Ring, 7, null, sequence, clock), packet);
                    float[] bu = new float[1000],
                        bv = new float[1000];
                    Assert.Equal(u.Length, RingPayload.Read(payload, bu, bv));
                    Assert.All(u.Zip(bu), p => Assert.True(MathF.Abs(p.First - p.Second) <= RingPayload.Unit));
                    Assert.False(DevicePacket.TryRead(buffer.AsSpan(0, size - 1), out _, out _));
                    Assert.False(DevicePacket.TryRead(buffer.AsSpan(0, size + 1), out _, out _));
                }
            );

    [Fact]
    public void Random_bytes_are_never_read_as_numbers_that_cannot_be_used() =>
        Gen
            .Byte.Array[0, 400]
            .Sample(bytes =>
            {
                byte[] packet = [.. "EIDN"u8, 1, .. bytes];
                if (DevicePacket.TryRead(packet, out var head, out var payload))
                {
                    Assert.True(
                        double.IsFinite(head.Clock) && Enum.IsDefined(head.Kind) && payload.Length == packet.Length - DevicePacket.Header
                    );
                }

                var values = new float[9];
                if (FloatPayload.TryRead(bytes, values))
                {
                    Assert.All(values, v => Assert.True(float.IsFinite(v)));
                }
            });

    [Fact]
    public void Not_a_number_is_refused()
    {
        var values = new float[] { 1, float.NaN, 3 };
        var bytes = new byte[12];
        FloatPayload.Write(bytes, values);
        Assert.False(FloatPayload.TryRead(bytes, new float[3]));
    }

    [Theory]
    [InlineData("camera-knocked@12", "camera-knocked", 12)]
    [InlineData("battery-empty", "battery-empty", 0)]
    public void Faults_are_read(string text, string name, double at) => Assert.Equal(new StandInFault(name, at), StandInFault.Parse(text));

    [Theory]
    [InlineData("storm@3", "there is no fault 'storm'")]
    [InlineData("camera-lost@soon", "no time")]
    public void Unknown_faults_are_refused_with_those_there_are(string text, string expected) =>
        Assert.Contains(expected, Assert.Throws<ArgumentException>(() => StandInFault.Parse(text)).Message, StringComparison.Ordinal);

    [Fact]
    public void A_lost_camera_is_silent_and_a_knocked_one_sees_beside()
    {
        var ring = new RingStandIn();
        ring.Perform("gangplank-hop", HarbourCast.Tobi, 1);
        var buffer = new byte[DevicePacket.Largest];
        var before = ring.Payload(3, 0, buffer);
        float[] u = new float[1000],
            v = new float[1000],
            ku = new float[1000],
            kv = new float[1000];
        var n = RingPayload.Read(buffer.AsSpan(0, before), u, v);
        ring.Break("camera-knocked");
        ring.Break("camera-lost");
        Assert.Equal(-1, ring.Payload(6, 0, buffer));
        var after = ring.Payload(3, 0, buffer);
        Assert.Equal(n, RingPayload.Read(buffer.AsSpan(0, after), ku, kv));
        Assert.All(Enumerable.Range(0, n), i => Assert.InRange(Math.Sqrt(Math.Pow(u[i] - ku[i], 2) + Math.Pow(v[i] - kv[i], 2)), 3, 20));
        ring.Mend();
        Assert.True(ring.Payload(6, 0, buffer) >= 0);
    }

    [Fact]
    public void The_suit_feels_gravity_and_the_field_of_the_room()
    {
        var actor = SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 1, SuitSensors.Rate).Actors[0];
        var values = SuitSimulator.Measure(actor, 3);
        var width = SuitSensors.Bones.Count * SuitSensors.Values;
        double force = 0,
            field = 0;
        var frames = values.Length / width;
        for (var f = 0; f < frames; f++)
        {
            // Sensor 0 is the pelvis, which hardly moves while hauling.
            var s = values.AsSpan(f * width, SuitSensors.Values);
            force += Math.Sqrt((s[3] * s[3]) + (s[4] * s[4]) + (s[5] * s[5])) / frames;
            field += Math.Sqrt((s[6] * s[6]) + (s[7] * s[7]) + (s[8] * s[8])) / frames;
        }

        Assert.InRange(force, 9.5, 10.2);
        Assert.InRange(field, RoomField.Earth.Length() - 4, RoomField.Earth.Length() + 4);
        Assert.True(
            (RoomField.Stage.At(RoomField.Stage.Steel[0].Place + new System.Numerics.Vector3(0.5f, 0, 0)) - RoomField.Earth).Length() > 20
        );
    }

    [Fact]
    public void The_witness_camera_sees_the_head_above_the_feet()
    {
        var performance = SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 1, WitnessPoints.Rate);
        var values = WitnessSimulator.See(performance, 0, 1);
        var names = WitnessPoints.Names.ToList();
        Assert.Equal(WitnessPoints.Count, names.Distinct().Count());
        var row = values.AsSpan(60 * WitnessPoints.Values, WitnessPoints.Values);
        int crown = names.IndexOf("Crown") * 3,
            toe = names.IndexOf("ToeL") * 3;
        Assert.True(row[crown + 2] > 0.2f && row[crown + 1] < row[toe + 1] - 150);
        Assert.InRange(row[crown], 0, WitnessSimulator.Width);
        var face = new FaceStandIn();
        var buffer = new byte[DevicePacket.Largest];
        var weights = new float[FaceWeights.Names.Count];
        Assert.True(FloatPayload.TryRead(buffer.AsSpan(0, face.Payload(0, 77, buffer)), weights));
        Assert.All(weights, w => Assert.InRange(w, 0, 1));
    }
}
