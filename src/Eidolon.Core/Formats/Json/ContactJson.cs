using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Planted ranges as reports have them: <c>[{ "joint", "start", "end" }]</c>, frames both inside.</summary>
public static class ContactJson
{
    /// <summary>Contacts by the names of a skeleton's joints.</summary>
    public static JsonArray Of(IEnumerable<Contact> contacts, Skeleton skeleton) =>
        new([
            .. contacts.Select(c =>
                (JsonNode)
                    new JsonObject
                    {
                        ["joint"] = skeleton[skeleton.IndexOf(c.Role)].Name,
                        ["start"] = c.Start,
                        ["end"] = c.End,
                    }
            ),
        ]);
}
