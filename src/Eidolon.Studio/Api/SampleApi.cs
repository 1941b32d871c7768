using System.Runtime.InteropServices;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Api;

/// <summary>Marker samples of a take: a range of frames, or what has changed since a state the page knows.</summary>
public static class SampleApi
{
    public static void Map(RouteGroupBuilder take)
    {
        take.MapGet("/markers", Markers);
        take.MapGet("/patch", Patch);
        take.MapGet("/path", Path);
        take.MapGet("/preview", Preview);
        take.MapGet("/smoothing", Smoothing);
        take.MapGet("/remedies", (string kind, string subject, string? other, int start, int end) => Results.Json(
                Remedies
                    .For(kind, subject, other ?? string.Empty, start, end)
                    .Select(r => new
                    {
                        words = r.Words,
                        operation = r.Entry.Operation,
                        parameters = r.Entry.Parameters,
                    })
            ));
    }

    /// <summary>Frames [from, to), frame by frame, three little-endian float32 a marker; of the present state or, by its name, another of this take.</summary>
    private static IResult Markers(int id, string? state, int? from, int? to, TakeService takes)
    {
        var markers = Find(takes.Open(id), state, takes);
        if (markers is null)
        {
            return Results.Conflict("That state is not in memory any more.");
        }

        var first = Math.Clamp(from ?? 0, 0, markers.FrameCount);
        var last = Math.Clamp(to ?? markers.FrameCount, first, markers.FrameCount);
        return Binary(
            MemoryMarshal.AsBytes(markers.Positions.AsSpan(first * markers.MarkerCount, (last - first) * markers.MarkerCount)).ToArray()
        );
    }

    /// <summary>
    /// What turns a state into the present one, all int32 or float32: columns, runs, the source of each column, then each run's column, first frame and
    /// frames with its samples. An empty answer when the page must read everything anew.
    /// </summary>
    private static IResult Patch(int id, string since, HttpResponse response, TakeService takes)
    {
        var open = takes.Open(id);
        response.Headers["X-State"] = open.MarkerState;
        return Find(open, since, takes) is { } before && before.FrameCount == open.Marked.FrameCount
            ? Binary(since == open.MarkerState ? [] : Write(before, open.Marked))
            : Binary([]);
    }

    /// <summary>One marker's way through another state of the take: float32 x, y, z a frame; empty where it is not there.</summary>
    private static IResult Path(int id, int head, string marker, TakeService takes, CancellationToken cancel)
    {
        var markers = takes.MarkersAt(takes.Open(id), head, cancel).Value?.Take;
        if (markers is null || markers.IndexOf(marker) is not (>= 0 and var m))
        {
            return Binary([]);
        }

        var path = new System.Numerics.Vector3[markers.FrameCount];
        for (var f = 0; f < path.Length; f++)
        {
            path[f] = markers[f, m];
        }

        return Binary(MemoryMarshal.AsBytes<System.Numerics.Vector3>(path).ToArray());
    }

    /// <summary>What a cut-off would do along the take.</summary>
    private static IResult Smoothing(int id, double cutoff, TakeService takes)
    {
        var markers = takes.Open(id).Marked;
        return cutoff > 0 && cutoff < markers.FrameRate / 2 && markers.MarkerCount > 0
            ? Results.Json(SmoothingStrip.Of(markers, cutoff, 280), JsonSerializerOptions.Web)
            : Results.BadRequest($"The cut-off must lie between 0 and {markers.FrameRate / 2:0} Hz.");
    }

    /// <summary>What an entry would change, before it is kept: a patch on the present state.</summary>
    private static IResult Preview(int id, string operation, string parameters, TakeService takes, CancellationToken cancel)
    {
        try
        {
            var before = takes.Open(id).Marked;
            var wish = new AddEntries(operation, ParameterJson.Parse(parameters));
            var after = takes.Propose(id, wish, cancel: cancel).Marked;
            return before.FrameCount == after.FrameCount
                ? Binary(Write(before, after))
                : Results.BadRequest("That changes the length of the take: it cannot be shown before it is done.");
        }
        catch (Exception e) when (LedgerRunner.IsReason(e) || e is JsonException)
        {
            return Results.BadRequest(e.Message);
        }
    }

    internal static byte[] Write(MarkerTake before, MarkerTake after)
    {
        var difference = TakeDifference.Between(before, after);
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream);
        w.Write(difference.Sources.Length);
        w.Write(difference.Runs.Count);
        w.Write(MemoryMarshal.AsBytes<int>(difference.Sources));
        foreach (var (column, start, length) in difference.Runs)
        {
            w.Write(column);
            w.Write(start);
            w.Write(length);
            for (var f = start; f < start + length; f++)
            {
                w.Write(MemoryMarshal.AsBytes(after.At(f).Slice(column, 1)));
            }
        }

        return stream.ToArray();
    }

    private static MarkerTake? Find(OpenTake open, string? state, TakeService takes) =>
        state is null || state == open.MarkerState ? open.Marked : takes.Remembered(state)?.Take;

    private static IResult Binary(byte[] bytes) => Results.Bytes(bytes, "application/octet-stream");
}
