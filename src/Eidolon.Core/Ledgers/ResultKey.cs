using System.Text;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>What a result was made of, as one hash: operation, version, canonical parameters, and the content of every input and resource it uses.</summary>
public static class ResultKey
{
    /// <summary>Key of a result: the operation with its version and parameters, and all it reads by content.</summary>
    public static UInt128 Of(
        Entry entry,
        NodeScope scope,
        UInt128? own,
        IReadOnlyList<UInt128> inputs,
        IReadOnlyList<(ResourceKey Key, UInt128 Content)> resources
    )
    {
        var text = new StringBuilder();
        text.Append(entry.Operation).Append('|').Append(entry.Version).Append('|').Append(CanonicalJson.Write(entry.Parameters));
        text.Append('|').Append(scope.Subject).Append('>').Append(scope.Target).Append('|').Append(own?.ToString("x32") ?? "-");
        foreach (var input in inputs)
        {
            text.Append('|').Append(input.ToString("x32"));
        }

        foreach (var (key, content) in resources)
        {
            text.Append('|').Append(key.Kind).Append(key.Id).Append('=').Append(content.ToString("x32"));
        }

        return ContentHash.Of(text.ToString());
    }
}
