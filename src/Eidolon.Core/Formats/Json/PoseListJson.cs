using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Formats.Json;

/// <summary>Poses of a performer's model: for each, the turns (x, y, z, w a joint) and then the values of all freedoms.</summary>
public static class PoseListJson
{
    /// <summary>Writes poses with all their digits.</summary>
    public static string Write(IReadOnlyList<ModelPose> poses) =>
        new JsonArray([
            .. poses.Select(p =>
                (JsonNode)
                    new JsonArray([
                        .. p.Turns.SelectMany(q => new[] { q.X, q.Y, q.Z, q.W }).Concat(p.Values).Select(v => (JsonNode)Math.Round(v, 9)),
                    ])
            ),
        ]).ToJsonString();

    /// <exception cref="InvalidInputException">The text is no list of poses of this performer.</exception>
    public static IReadOnlyList<ModelPose> Read(string json, Performer performer)
    {
        var model = BodyModel.Create(performer);
        try
        {
            return [.. (JsonNode.Parse(json) as JsonArray ?? []).Select(p => Pose(model, p as JsonArray ?? [], performer.Name))];
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException)
        {
            throw new InvalidInputException($"poses of {performer.Name}", "list", "the JSON cannot be read", e);
        }
    }

    private static ModelPose Pose(ArticulatedModel model, JsonArray values, string who)
    {
        var pose = new ModelPose(model);
        if (values.Count != (pose.Turns.Length * 4) + pose.Values.Length)
        {
            throw new InvalidInputException($"poses of {who}", "list", "a pose is of another body");
        }

        double At(int i) => values[i]?.GetValue<double>() ?? 0;
        for (var j = 0; j < pose.Turns.Length; j++)
        {
            pose.Turns[j] = new Quaterniond(At(j * 4), At((j * 4) + 1), At((j * 4) + 2), At((j * 4) + 3)).Normalized();
        }

        for (var d = 0; d < pose.Values.Length; d++)
        {
            pose.Values[d] = At((pose.Turns.Length * 4) + d);
        }

        return pose;
    }
}
