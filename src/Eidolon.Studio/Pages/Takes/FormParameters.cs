using System.Globalization;
using System.Text.Json.Nodes;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>
/// Operation parameters from a plain form: everything besides the plumbing; numbers stay numbers, "place.HandL" goes into an object of its own.
/// </summary>
internal static class FormParameters
{
    /// <summary>What an entry's form calls the parameters: "p.name".</summary>
    private const string Group = "p";

    /// <summary>Parameters of an entry as its form gives them.</summary>
    public static JsonObject OfEntry(IFormCollection form) => Read(form)[Group]?.AsObject() ?? [];

    private static readonly HashSet<string> Plumbing = ["__RequestVerificationToken", "operation", "parameters", "node", "seen"];

    public static JsonObject Read(IFormCollection form)
    {
        var json = new JsonObject();
        foreach (var (key, value) in form.Where(f => !Plumbing.Contains(f.Key)))
        {
            var text = value.ToString();
            var (target, name) = (json, key);
            if (key.Split('.') is [var outer, var inner])
            {
                if (json[outer] is not JsonObject group)
                {
                    json[outer] = group = [];
                }

                (target, name) = (group, inner);
            }

            target[name] =
                double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && double.IsFinite(n) ? n : text;
        }

        return json;
    }
}
