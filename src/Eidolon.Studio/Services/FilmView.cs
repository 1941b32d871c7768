using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Studio.Services;

/// <summary>A performer's films beside what was solved of them: what the page draws, and what is off.</summary>
public sealed class FilmView
{
    private readonly Lazy<FilmLook?>[] _looks;
    private readonly Motion? _motion;

    private FilmView(OpenTake.Role role, FilmValue value)
    {
        (Role, Value, _motion) = (role, value, role.Motion);
        var report = role.Solved?.Report;
        var exchanged = (report?["exchangedLegs"] as JsonArray ?? []).Select(x =>
            (Film: (int)x!["film"]!, Start: (int)x["start"]!, End: (int)x["end"]!)
        );
        Films = FilmFixes.Apply(
            [.. value.Films.Select((f, k) => LegExchange.PutBack(f, [.. exchanged.Where(x => x.Film == k).Select(x => (x.Start, x.End))]))],
            value.Fixes
        );
        Offsets = [.. value.Films.Select((_, k) => (double?)report?["offsetsSeconds"]?[k] ?? 0)];
        Pixels = [.. value.Films.Select((_, k) => (double?)report?["reprojectionPixels"]?[k] ?? double.NaN)];
        Cameras =
        [
            .. value.Cameras.Select(
                (c, k) => report?["cameras"]?[k] is { } found ? CameraRingJson.ReadCamera(found.ToJsonString(), c.Name) : c
            ),
        ];
        _looks =
        [
            .. Films.Select(
                (f, k) =>
                    new Lazy<FilmLook?>(() => _motion is { } m && Cameras[k].IsPlaced ? new FilmLook(f, Cameras[k], Offsets[k], m) : null)
            ),
        ];
    }

    public OpenTake.Role Role { get; }

    /// <summary>As they came, and what a person said of them.</summary>
    public FilmValue Value { get; }

    /// <summary>With what a person put right.</summary>
    public IReadOnlyList<FilmTake> Films { get; }

    /// <summary>Each film's first frame on the take's clock, seconds; 0 before they are solved.</summary>
    public IReadOnlyList<double> Offsets { get; }

    /// <summary>How far each film's points are off, pixels; NaN before they are solved.</summary>
    public IReadOnlyList<double> Pixels { get; }

    /// <summary>As the solve found them.</summary>
    public IReadOnlyList<CameraModel> Cameras { get; }

    /// <summary>What was put right is not in the solve that is shown.</summary>
    public bool Unsolved => Role.State.OutOfDate && Role.Solved is not null;

    /// <summary>How many points more, or fewer, than the solve has seen.</summary>
    public int Waiting => Math.Abs(Value.Fixes.Count - ((int?)Role.Solved?.Report["fixes"] ?? 0));

    /// <summary>Null for a performer without films.</summary>
    public static FilmView? Of(OpenTake.Role role) => role.Films is { } films ? new FilmView(role, films) : null;

    /// <summary>Stretches in which a part of the body is off in a picture.</summary>
    public IReadOnlyList<Finding> Stretches() =>
        _motion is null || _looks.Any(l => l.Value is null)
            ? []
            : FilmStretches.Find(
                Films,
                [.. _looks.Select(l => l.Value!)],
                [.. Cameras.Select(c => (double)c.Width)],
                Offsets,
                [.. Cameras.Select(c => c.Name)],
                _motion
            );

    /// <summary>How far a film's points are off, a frame of the motion each.</summary>
    public double?[] Misses(int film)
    {
        if (_motion is null || _looks[film].Value is not { } look)
        {
            return [];
        }

        var own = look.Misses();
        return
        [
            .. Enumerable
                .Range(0, _motion.FrameCount)
                .Select(f =>
                    (int)Math.Round((((f + _motion.FirstFrame) / _motion.FrameRate) - Offsets[film]) * Films[film].FrameRate) is var k
                    && k >= 0
                    && k < own.Length
                        ? own[k]
                        : null
                ),
        ];
    }

    /// <summary>What the page must know of each film before it draws it.</summary>
    public JsonArray About() =>
        new([
            .. Films.Select(
                (f, k) =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = Cameras[k].Name,
                            ["rate"] = f.FrameRate,
                            ["frames"] = f.FrameCount,
                            ["offset"] = Offsets[k],
                            ["pixels"] = double.IsNaN(Pixels[k]) ? null : Math.Round(Pixels[k], 1),
                            ["camera"] = CameraRingJson.Write(Cameras[k], Cameras[k].IsPlaced),
                            ["points"] = new JsonArray([.. f.Names.Select(n => (JsonNode)n)]),
                            ["carried"] = new JsonArray([.. (_looks[k].Value?.Names ?? []).Select(n => (JsonNode)n)]),
                            ["fixes"] = new JsonArray([
                                .. Value.Fixes.Where(x => x.Film == k).Select(x => (JsonNode)new JsonArray(x.Frame, x.Point)),
                            ]),
                        }
            ),
        ]);

    /// <summary>A film's points, u, v and confidence, then where the body has those it carries, u and v; float32, frame by frame.</summary>
    public byte[] Samples(int film)
    {
        var own = Films[film];
        var bytes = MemoryMarshal.AsBytes<float>(own.Values);
        if (_looks[film].Value is not { } look)
        {
            return bytes.ToArray();
        }

        var places = new Vector2[own.FrameCount * look.Names.Count];
        for (var f = 0; f < own.FrameCount; f++)
        {
            look.Project(f, places.AsSpan(f * look.Names.Count, look.Names.Count));
        }

        return [.. bytes, .. MemoryMarshal.AsBytes<Vector2>(places)];
    }
}
