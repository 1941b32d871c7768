using System.Numerics;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Tests.Operations;

/// <summary>Runs operations on small takes and tells what came of it in one text.</summary>
internal static class Told
{
    private static readonly JsonSerializerOptions Plain = new()
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    public static OperationResult Run(
        string operation,
        NodeValue? own,
        string parameters,
        IResources? resources = null,
        params NodeValue[] below
    ) =>
        OperationRegistry
            .Find(operation)
            .Run(
                new OperationInput(own, below),
                JsonNode.Parse(parameters.Replace('\'', '"'))!.AsObject(),
                new OperationContext(resources ?? new FileResources())
            );

    public static string Refused(
        string operation,
        NodeValue? own,
        string parameters,
        IResources? resources = null,
        params NodeValue[] below
    ) => Assert.Throws<RefusedException>(() => Run(operation, own, parameters, resources, below)).Message;

    /// <summary>A report with small quotes.</summary>
    public static string Json(JsonNode report) => report.ToJsonString(Plain).Replace('"', '\'');

    /// <summary>Each marker with the frames it is seen in: "A 0-3,5".</summary>
    public static string Of(MarkerTake take) =>
        string.Join(
            "; ",
            Enumerable
                .Range(0, take.MarkerCount)
                .Select(m =>
                {
                    var ranges = new List<string>();
                    for (var f = 0; f < take.FrameCount; f++)
                    {
                        var start = f;
                        while (f < take.FrameCount && MarkerTake.Seen(take[f, m]))
                        {
                            f++;
                        }

                        if (f > start)
                        {
                            ranges.Add(f - start == 1 ? $"{start}" : $"{start}-{f - 1}");
                        }
                    }

                    return $"{take.Names[m]} {string.Join(',', ranges)}";
                })
        );

    public static string Of(IEnumerable<PinnedLabel> pinned) => string.Join("; ", pinned.Select(p => $"{p.Name} {p.Start}-{p.End}"));

    /// <summary>Markers that stand a metre apart, each seen in frames from a to b.</summary>
    public static MarkerTake Seen(int frames, params (string Name, int From, int To)[] markers)
    {
        var take = new MarkerTake([.. markers.Select(m => m.Name)], 60, frames);
        for (var f = 0; f < frames; f++)
        {
            for (var m = 0; m < markers.Length; m++)
            {
                take[f, m] = f >= markers[m].From && f <= markers[m].To ? new Vector3(m, 1, f * 0.001f) : MarkerTake.Hidden;
            }
        }

        return take;
    }
}
