namespace Eidolon.Core;

/// <summary>Stored samples do not match their checksum; the message names what and from which frame on.</summary>
public sealed class DamagedDataException(string message) : Exception(message);
