using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Places of joints by their roles, <c>{"ShinL": [x, y, z]}</c>, metres.</summary>
public static class PlacesJson
{
    /// <exception cref="RefusedException">A name is no role, or a place is not three numbers.</exception>
    public static IReadOnlyDictionary<BodyRole, Vector3> Read(JsonObject said) =>
        said.ToDictionary(
            j =>
                Enum.TryParse<BodyRole>(j.Key, out var role) && Enum.IsDefined(role) && !char.IsDigit(j.Key[0])
                    ? role
                    : throw new RefusedException($"'{j.Key}' is no role of a body"),
            j =>
                j.Value is JsonArray { Count: 3 } at
                && at.All(v => v is JsonValue n && n.TryGetValue<double>(out var d) && double.IsFinite(d))
                    ? new Vector3((float)(double)at[0]!, (float)(double)at[1]!, (float)(double)at[2]!)
                    : throw new RefusedException($"the place of {j.Key} is not three numbers")
        );

    /// <summary>The same as JSON, to a tenth of a millimetre.</summary>
    public static JsonObject Write(IReadOnlyDictionary<BodyRole, Vector3> places) =>
        new(
            places.Select(p =>
                KeyValuePair.Create<string, JsonNode?>(
                    p.Key.ToString(),
                    new JsonArray(Math.Round(p.Value.X, 4), Math.Round(p.Value.Y, 4), Math.Round(p.Value.Z, 4))
                )
            )
        );
}
