using System.Numerics;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Formats.Json;

/// <summary>A calibrated performer as JSON: joints with role, parent and offset; markers with joint and offset. Metres.</summary>
public static class PerformerJson
{
    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static string Write(Performer p) =>
        new JsonObject
        {
            ["name"] = p.Name,
            ["stature"] = Math.Round(p.Stature, 4),
            ["joints"] = new JsonArray([
                .. p.Skeleton.Joints.Select(j =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = j.Name,
                            ["role"] = j.Role?.ToString(),
                            ["parent"] = j.Parent < 0 ? null : p.Skeleton[j.Parent].Name,
                            ["offset"] = MarkerSetJson.Array(j.Offset),
                            ["endSite"] = j.EndSite is { } e ? MarkerSetJson.Array(e) : null,
                        }
                ),
            ]),
            ["markers"] = new JsonArray([
                .. p.Markers.Select(m =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = m.Name,
                            ["joint"] = p.Skeleton[m.Joint].Name,
                            ["offset"] = MarkerSetJson.Array(m.Offset),
                            ["weight"] = m.Weight,
                        }
                ),
            ]),
        }.ToJsonString(new JsonSerializerOptions { WriteIndented = true });

    /// <summary>Reads a measured performer.</summary>
    /// <exception cref="InvalidInputException">A bone, marker or number is wrong; says which.</exception>
    public static Performer Read(byte[] bytes, string file) => JsonInput.Read(bytes, file, root => From(root, file));

    private static Performer From(JsonElement root, string file)
    {
        var joints = new List<Joint>();
        foreach (
            var (j, i) in JsonInput.Property(root, "joints", JsonValueKind.Array, "joints", file).EnumerateArray().Select((j, i) => (j, i))
        )
        {
            var place = $"joints[{i}]";
            var name = JsonInput.Property(j, "name", JsonValueKind.String, place, file).GetString()!;
            var parent = -1;
            if (j.TryGetProperty("parent", out var up) && up.ValueKind == JsonValueKind.String)
            {
                parent = joints.FindIndex(x => x.Name == up.GetString());
                if (parent < 0)
                {
                    throw new InvalidInputException(file, place, $"the parent '{up.GetString()}' does not come before it");
                }
            }

            var role =
                j.TryGetProperty("role", out var r)
                && r.ValueKind == JsonValueKind.String
                && Enum.TryParse<BodyRole>(r.GetString(), out var known)
                    ? known
                    : (BodyRole?)null;
            var end =
                j.TryGetProperty("endSite", out var e) && e.ValueKind == JsonValueKind.Array
                    ? JsonInput.Vector(e, place, file)
                    : (Vector3?)null;
            joints.Add(
                new Joint(name, parent, JsonInput.Vector(JsonInput.Property(j, "offset", JsonValueKind.Array, place, file), place, file))
                {
                    Role = role,
                    EndSite = end,
                }
            );
        }

        Skeleton skeleton;
        try
        {
            skeleton = new Skeleton(joints);
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new InvalidInputException(file, "joints", e.Message, e);
        }

        if (skeleton.Count == 0 || skeleton[0].Role != BodyRole.Pelvis || skeleton.Joints.Skip(1).Any(j => j.Parent < 0))
        {
            throw new InvalidInputException(file, "joints", "the first joint must play Pelvis and be the only root");
        }

        var markers = new List<PerformerMarker>();
        foreach (
            var (m, i) in JsonInput
                .Property(root, "markers", JsonValueKind.Array, "markers", file)
                .EnumerateArray()
                .Select((m, i) => (m, i))
        )
        {
            var place = $"markers[{i}]";
            var joint = JsonInput.Property(m, "joint", JsonValueKind.String, place, file).GetString()!;
            if (skeleton.IndexOf(joint) < 0)
            {
                throw new InvalidInputException(file, place, $"there is no joint '{joint}'");
            }

            var weight = m.TryGetProperty("weight", out var w) && w.TryGetSingle(out var v) && v is > 0 and <= 100 ? v : 1;
            markers.Add(
                new PerformerMarker(
                    JsonInput.Property(m, "name", JsonValueKind.String, place, file).GetString()!,
                    skeleton.IndexOf(joint),
                    JsonInput.Vector(JsonInput.Property(m, "offset", JsonValueKind.Array, place, file), place, file),
                    weight
                )
            );
        }

        var stature = root.TryGetProperty("stature", out var s) && s.TryGetSingle(out var h) ? h : 1.7f;
        var name2 =
            root.TryGetProperty("name", out var n) && n.ValueKind == JsonValueKind.String
                ? n.GetString()!
                : Path.GetFileNameWithoutExtension(file);
        return new Performer(name2, stature, skeleton, markers);
    }
}
