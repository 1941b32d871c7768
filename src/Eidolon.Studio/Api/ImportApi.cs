using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Formats;
using Eidolon.Core.Markers;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Api;

/// <summary>A waiting file as the Stage shows it: at most 300 frames of its points.</summary>
public static class ImportApi
{
    private const int MostFrames = 300;

    public static void Map(WebApplication app)
    {
        app.MapGet("/api/import/{id}", (string id, ImportDesk desk) =>
            desk.Find(id) is not { } item ? Results.NotFound() : Results.Json(About(item))
        );
        app.MapGet("/api/import/{id}/points", (string id, ImportDesk desk) =>
            desk.Find(id) is not { } item ? Results.NotFound() : Results.Bytes(Points(item), "application/octet-stream")
        );
    }

    private static object About(ImportDesk.Item item)
    {
        var file = item.File.Corrected(item.Settings);
        var names = file.Markers?.Names ?? file.Motion?.Skeleton.Joints.Select(j => j.Name).ToArray() ?? [];
        var links = file.Motion is { } m ? m.Skeleton.Joints.Select((j, i) => new[] { j.Parent, i }).Where(l => l[0] >= 0).ToArray() : [];
        return new
        {
            names,
            links,
            frames = Math.Min(MostFrames, file.FrameCount),
            rate = file.FrameRate / Step(file),
            motion = file.Motion is not null,
        };
    }

    private static int Step(ImportedFile file) => Math.Max(1, (file.FrameCount + MostFrames - 1) / MostFrames);

    private static byte[] Points(ImportDesk.Item item)
    {
        var file = item.File.Corrected(item.Settings);
        MarkerTake points = file.Markers
            ?? (file.Motion is { } m ? MotionFiles.JointPoints(m) : new MarkerTake([], file.FrameRate, file.FrameCount));
        var step = Step(file);
        var frames = Math.Min(MostFrames, points.FrameCount);
        var data = new Vector3[frames * points.MarkerCount];
        for (var f = 0; f < frames; f++)
        {
            points.At(Math.Min(points.FrameCount - 1, f * step)).CopyTo(data.AsSpan(f * points.MarkerCount));
        }

        return MemoryMarshal.AsBytes<Vector3>(data).ToArray();
    }
}
