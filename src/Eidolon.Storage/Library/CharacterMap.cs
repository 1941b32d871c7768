using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;

namespace Eidolon.Storage.Library;

/// <summary>The role map that a version of a character carries, and where it is from.</summary>
internal static class CharacterMap
{
    /// <summary>Roles were found and nobody has looked at them.</summary>
    public const string Found = "found";

    /// <summary>Roles are from a map that was kept before, for this character or one alike.</summary>
    public const string Known = "known";

    /// <summary>A person accepted them.</summary>
    public const string Kept = "kept";

    /// <summary>A file where more needed roles cannot be told is no figure.</summary>
    public const int MostMissing = 7;

    /// <summary>A map is taken over where so large a share of the joints has the same names.</summary>
    private const double Alike = 0.9;

    public static string Write(IReadOnlyDictionary<BodyRole, string> roles, string from)
    {
        var map = (JsonObject)JsonNode.Parse(RoleMapJson.Write(roles))!;
        map["from"] = from;
        return map.ToJsonString();
    }

    /// <summary>The map of a version that was kept or taken over; null where roles are to be found.</summary>
    public static IReadOnlyDictionary<BodyRole, string>? Of(SubjectVersion version, Skeleton skeleton, string name) =>
        version.Body.Length == 0 || (string?)JsonNode.Parse(version.Body)?["from"] == Found ? null : Read(version, skeleton, name);

    /// <summary>The map of a version on the skeleton of another file; null where the two rigs are not alike.</summary>
    public static IReadOnlyDictionary<BodyRole, string>? For(SubjectVersion version, Skeleton other)
    {
        if (version.Body.Length == 0 || (string?)JsonNode.Parse(version.Body)?["from"] != Kept)
        {
            return null;
        }

        var roles = (JsonObject)JsonNode.Parse(version.Body)!["roles"]!;
        var there = roles.Count(r => other.IndexOf((string)r.Value!) >= 0);
        return roles.Count == 0 || there < Alike * roles.Count
            ? null
            : roles.Where(r => other.IndexOf((string)r.Value!) >= 0).ToDictionary(r => Enum.Parse<BodyRole>(r.Key), r => (string)r.Value!);
    }

    /// <summary>The skeleton with the version's roles; those of versions without a map are found.</summary>
    /// <exception cref="RefusedException">Not all needed roles are played.</exception>
    public static Skeleton Assign(Skeleton skeleton, SubjectVersion version, string name)
    {
        try
        {
            return RoleFinder.Assign(skeleton, version.Body.Length == 0 ? null : Read(version, skeleton, name), name);
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new RefusedException($"{e.Message}: say it at Characters", e);
        }
    }

    private static Dictionary<BodyRole, string> Read(SubjectVersion version, Skeleton skeleton, string name) =>
        RoleMapJson.Read(Encoding.UTF8.GetBytes(version.Body), name, skeleton);
}
