using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Faces;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Solving;

namespace Eidolon.Cli.Verbs;

/// <summary>Hands and face that ride along with a solve: fingers from the take's own markers or from gloves, weights from a face's table.</summary>
internal sealed class RideAlong
{
    public Option<string?> Gloves { get; } =
        new("--gloves") { Description = "GLOVES.csv; without it fingers come from markers that sit on them." };

    public Option<string?> Face { get; } = new("--face") { Description = "FACE.csv" };

    public Option<double?> FaceOffset { get; } = new("--face-offset") { Description = "Seconds; found by the clap or the jaw without it." };

    public Given Read(ParseResult p) =>
        new(
            p.GetValue(Gloves) is { } g ? GloveCsv.Read(InputFile.Read(g), g) : null,
            p.GetValue(Face) is { } f ? FaceCsv.Read(InputFile.Read(f), f) : null,
            p.GetValue(FaceOffset)
        );

    /// <summary>Puts the reports of what rode along under names of their own.</summary>
    /// <returns>Their warnings, which belong to those of the verb.</returns>
    public static IReadOnlyList<string> Into(JsonObject report, IReadOnlyList<(string Name, JsonObject Report)> rode)
    {
        var warnings = new List<string>();
        foreach (var (name, own) in rode)
        {
            warnings.AddRange((own["warnings"] as JsonArray ?? []).Select(w => (string)w!));
            own.Remove("warnings");
            report[name] = own;
        }

        return warnings;
    }

    /// <summary>What was given beside the take.</summary>
    public sealed record Given(GloveTake? Gloves, FaceTake? Face, double? FaceOffset)
    {
        /// <summary>The motion with fingers and face, and what finding them said.</summary>
        public (MotionValue Motion, IReadOnlyList<(string Name, JsonObject Report)> Said) Add(
            MotionValue body,
            Performer performer,
            MarkerSet? set,
            MarkerTake? markers,
            IProgress<double> progress
        )
        {
            var said = new List<(string, JsonObject)>();
            var files = new FileResources
            {
                Set = set,
                Body = performer,
                Worn = Gloves,
                Seen = Face,
            };
            // Files are laid on each other by their first frames, whatever number those carry.
            var value = body with { Motion = body.Motion.From(0) };
            var onFingers = set is not null && markers is not null && FingerMarkers.Of(set).Any(m => markers.IndexOf(m.Name) >= 0);
            if (Gloves is not null || onFingers)
            {
                Run("hands", HandOperations.Fingers, new JsonObject { ["from"] = Gloves is null ? "markers" : "gloves" });
            }

            if (Face is not null)
            {
                Run("face", HandOperations.Face, FaceOffset is { } o ? new JsonObject { ["offset"] = o } : []);
                ((JsonArray)said[^1].Item2["warnings"]!).Add(
                    (JsonNode)
                        "BVH and a GLB without a mesh hold no weights: the face is in step in this report and in the studio, not in the file"
                );
            }

            return (value with { Motion = value.Motion.From(body.Motion.FirstFrame) }, said);

            void Run(string name, Operation operation, JsonObject parameters)
            {
                NodeValue[] below = markers is null ? [] : [new MarkerValue(markers)];
                var result = operation.Run(new OperationInput(value, below), parameters, new OperationContext(files, Progress: progress));
                value = (MotionValue)result.Value;
                said.Add((name, result.Report));
            }
        }
    }
}
