using System.IO.Hashing;
using System.Text;
using System.Text.Json.Nodes;

namespace Eidolon.Core.Operations;

/// <summary>One entry of a Ledger: an operation's name, version and parameters.</summary>
public sealed record Entry(string Operation, int Version, JsonObject Parameters, bool On = true)
{
    /// <summary>A hash of this entry on top of what it works on; equal hashes give equal results.</summary>
    public UInt128 Hash(UInt128 input)
    {
        if (!On)
        {
            return input;
        }

        var text = $"{input:x}|{Operation}|{Version}|{Parameters.ToJsonString()}";
        return XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(text));
    }
}
