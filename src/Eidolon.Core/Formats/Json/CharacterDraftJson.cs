using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>
/// Drafts of characters: a list of steps, <c>{"role", "joint"}</c>, <c>{"mirror": "L"}</c>, <c>{"swapped"}</c>, <c>{"remedy"}</c>,
/// <c>{"size"}</c>, <c>{"mesh", "on"}</c> or <c>{"paint", "bone", "path", "radius", "strength", "other", "otherPath"}</c>.
/// </summary>
public static class CharacterDraftJson
{
    /// <summary>The steps as text.</summary>
    public static string Write(CharacterDraft draft) => new JsonArray([.. draft.Steps.Select(s => (JsonNode)Of(s))]).ToJsonString();

    /// <summary>A draft from text; empty text is the empty draft.</summary>
    /// <exception cref="RefusedException">It is no draft.</exception>
    public static CharacterDraft Read(string text)
    {
        try
        {
            var list = text.Length == 0 ? [] : JsonNode.Parse(text) as JsonArray ?? throw Wrong();
            return CharacterDraft.Empty.With([.. list.Select(Step)]);
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or FormatException or NullReferenceException)
        {
            throw Wrong();
        }
    }

    private static JsonObject Of(DraftStep step) =>
        step switch
        {
            RoleStep r => new JsonObject { ["role"] = r.Role.ToString(), ["joint"] = r.Joint },
            MirrorStep m => new JsonObject { ["mirror"] = m.From.ToString() },
            SidesStep s => new JsonObject { ["swapped"] = s.Swapped },
            RemedyStep r => new JsonObject { ["remedy"] = r.Remedy.ToString(), ["and"] = r.And?.ToString() },
            SizeStep s => new JsonObject { ["size"] = s.Factor },
            MeshStep m => new JsonObject { ["mesh"] = m.Mesh, ["on"] = m.On },
            WeightStep w => new JsonObject
            {
                ["paint"] = w.Brush.ToString(),
                ["bone"] = w.Bone,
                ["path"] = Numbers(w.Path),
                ["radius"] = w.Radius,
                ["strength"] = w.Strength,
                ["other"] = w.Other,
                ["otherPath"] = Numbers(w.OtherPath),
            },
            _ => throw new ArgumentException("This step has no text.", nameof(step)),
        };

    private static DraftStep Step(JsonNode? step) =>
        step!["role"] is { } role ? new RoleStep(Named<BodyRole>(role), (string?)step["joint"])
        : step["mirror"] is { } side && (string?)side is "L" or "R" ? new MirrorStep(((string)side!)[0])
        : step["swapped"] is { } swapped ? new SidesStep((bool)swapped)
        : step["remedy"] is { } remedy ? new RemedyStep(Named<RestRemedy>(remedy), step["and"] is { } and ? Named<RestRemedy>(and) : null)
        : step["size"] is { } size && (double)size is > 1e-5 and < 1e5 and var factor ? new SizeStep(factor)
        : step["mesh"] is { } mesh ? new MeshStep((string)mesh!, (bool)step["on"]!)
        : step["paint"] is { } brush
            ? new WeightStep(
                Named<WeightBrush>(brush),
                (string)step["bone"]!,
                Numbers(step["path"]!),
                (float)(double)step["radius"]!,
                (float)(double)step["strength"]!,
                (string?)step["other"],
                Numbers(step["otherPath"]!)
            )
        : throw Wrong();

    private static JsonArray Numbers(IReadOnlyList<int> list) => [.. list.Select(v => (JsonNode)v)];

    private static int[] Numbers(JsonNode list) => [.. ((JsonArray)list).Select(v => (int)v!)];

    private static T Named<T>(JsonNode name)
        where T : struct, Enum => Enum.TryParse<T>((string?)name, out var value) && Enum.IsDefined(value) ? value : throw Wrong();

    private static RefusedException Wrong() => new("the changes to this character cannot be read");
}
