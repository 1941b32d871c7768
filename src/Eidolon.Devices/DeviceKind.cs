namespace Eidolon.Devices;

/// <summary>The kinds of device a stage may have.</summary>
public enum DeviceKind
{
    Ring = 1,
    Suit = 2,
    Witness = 3,
    Face = 4,
}
