namespace Eidolon.Devices;

/// <summary>A device on the rack. A new kind of hardware is one class of these; everything after it sees arrivals and a meter.</summary>
public interface IDeviceSource
{
    /// <summary>Name of the device's sample stream in a take, e.g. <c>witness-1</c>.</summary>
    string Stream { get; }

    string Name { get; }

    /// <summary>What it is, in a few words.</summary>
    string Detail { get; }

    DeviceKind Kind { get; }

    /// <summary>Packets a second when all is well.</summary>
    double Rate { get; }

    /// <summary>Address and port here; empty while it is not listening.</summary>
    string Arrives { get; }

    DeviceMeter Meter { get; }

    /// <summary>Every good packet, in the order of arrival, on the device's own thread.</summary>
    event Action<DeviceArrival>? Arrived;

    /// <summary>Listens until cancelled; never throws for what a device sends.</summary>
    Task Run(CancellationToken cancel);
}
