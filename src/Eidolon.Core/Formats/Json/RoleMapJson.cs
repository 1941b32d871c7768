using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Role map JSON as in the command line's contract: role → joint name.</summary>
public static class RoleMapJson
{
    /// <summary>Reads which joint of a skeleton plays which role.</summary>
    /// <exception cref="InvalidInputException">A role is unknown or the skeleton has no such joint.</exception>
    public static Dictionary<BodyRole, string> Read(byte[] bytes, string file, Skeleton skeleton) =>
        JsonInput.Read(bytes, file, root => From(root, file, skeleton));

    /// <summary>A role map as text.</summary>
    public static string Write(IReadOnlyDictionary<BodyRole, string> roles) =>
        new JsonObject
        {
            ["roles"] = new JsonObject(roles.OrderBy(r => r.Key).Select(r => KeyValuePair.Create(r.Key.ToString(), (JsonNode?)r.Value))),
        }.ToJsonString();

    private static Dictionary<BodyRole, string> From(JsonElement root, string file, Skeleton skeleton)
    {
        var map = new Dictionary<BodyRole, string>();
        foreach (var p in JsonInput.Property(root, "roles", JsonValueKind.Object, "roles", file).EnumerateObject())
        {
            if (!Enum.TryParse<BodyRole>(p.Name, ignoreCase: true, out var role) || !Enum.IsDefined(role) || char.IsDigit(p.Name[0]))
            {
                throw new InvalidInputException(file, $"roles.{p.Name}", "this is not a body role");
            }

            if (p.Value.ValueKind == JsonValueKind.Null)
            {
                continue;
            }

            var joint =
                p.Value.ValueKind == JsonValueKind.String
                    ? p.Value.GetString()!
                    : throw new InvalidInputException(file, $"roles.{p.Name}", "a joint name is expected");
            if (skeleton.IndexOf(joint) < 0)
            {
                throw new InvalidInputException(file, $"roles.{p.Name}", $"the skeleton has no joint '{joint}'");
            }

            if (map.ContainsValue(joint))
            {
                throw new InvalidInputException(file, $"roles.{p.Name}", $"joint '{joint}' plays two roles");
            }

            map[role] = joint;
        }

        return map;
    }
}
