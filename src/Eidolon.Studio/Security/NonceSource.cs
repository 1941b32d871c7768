using System.Security.Cryptography;

namespace Eidolon.Studio.Security;

/// <summary>The nonce of this request, for the few scripts that stand in a page.</summary>
public sealed class NonceSource
{
    public string Value { get; } = Convert.ToBase64String(RandomNumberGenerator.GetBytes(16));
}
