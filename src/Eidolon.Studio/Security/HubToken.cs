using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;

namespace Eidolon.Studio.Security;

/// <summary>The word a page of this studio says when it opens a live connection; a page of anybody else does not know it.</summary>
public sealed class HubToken(IDataProtectionProvider protection)
{
    private const string Word = "a page of this studio";
    private readonly IDataProtector _protector = protection.CreateProtector("live connections");
    private string? _value;

    /// <summary>What pages are given; good beyond a restart of the studio.</summary>
    public string Value => _value ??= _protector.Protect(Word);

    public bool IsGood(string? token)
    {
        if (token is not { Length: > 0 and < 1000 })
        {
            return false;
        }

        try
        {
            return token == _value || _protector.Unprotect(token) == Word;
        }
        catch (CryptographicException)
        {
            return false;
        }
    }
}
