namespace Eidolon.Devices;

/// <summary>A good packet as it came in.</summary>
/// <param name="At">Studio clock, seconds.</param>
/// <param name="Session">Counts the device's starts: count and clock begin anew with each.</param>
public readonly record struct DeviceArrival(DevicePacket Packet, ReadOnlyMemory<byte> Payload, double At, int Session = 1);
