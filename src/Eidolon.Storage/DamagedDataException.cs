namespace Eidolon.Storage;

/// <summary>Stored samples do not match their checksum.</summary>
public sealed class DamagedDataException(string message) : Exception(message);
