namespace Eidolon.Devices;

/// <summary>A good packet as it came in.</summary>
/// <param name="At">Studio clock, seconds.</param>
public readonly record struct DeviceArrival(DevicePacket Packet, ReadOnlyMemory<byte> Payload, double At);
