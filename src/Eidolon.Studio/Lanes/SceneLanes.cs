using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;
using static Eidolon.Studio.Lanes.LaneParts;

namespace Eidolon.Studio.Lanes;

/// <summary>Lanes of a scene: its tracks with their clips, overlaps, layers.</summary>
internal static class SceneLanes
{
    /// <summary>What is planted in a track's motion: the same at every look.</summary>
    private static readonly MemoCache<UInt128, IReadOnlyList<PointContact>> _planted = new(4_000_000, p => p.Count * 64L);

    public static JsonArray Build(OpenScene open, string step)
    {
        var lanes = new JsonArray();
        foreach (var track in open.Tracks)
        {
            if (step == "polish")
            {
                AddLayers(lanes, track);
            }

            AddClips(lanes, open, track, step == "assemble");
        }

        foreach (var track in open.Moving)
        {
            var who = open.Tracks.Count > 1 ? track.Name + " " : string.Empty;
            MotionLanes.AddContacts(
                lanes,
                who,
                0,
                track.Motion!.FirstFrame,
                _planted.Of(track.Shown, () => BodyContacts.Find(track.Motion!, track.Contacts).Points),
                track.Contacts
            );
        }

        return lanes;
    }

    /// <summary>Each clip as a block from its first frame to its last, and how far feet slide where they overlap.</summary>
    private static void AddClips(JsonArray lanes, OpenScene open, OpenScene.Track track, bool edited)
    {
        var overlaps = track.State.Last(SceneOperations.Clips.Name)?.Report["overlaps"] as JsonArray ?? [];
        var blocks = new JsonArray();
        var at = 0;
        foreach (var (clip, i) in track.Clips.Select((c, i) => (c, i)))
        {
            var source = open.Sources.GetValueOrDefault(clip.Node);
            var length = (clip.End ?? source?.Frames ?? 0) - clip.Start;
            // A clip begins with its first overlap and lasts to where the next one has taken over; one that repeats overlaps itself.
            int? Edge(int clip, string edge) => (int?)overlaps.FirstOrDefault(o => (int?)o!["clip"] == clip)?[edge];
            var begin = i > 0 ? Edge(i, "start") ?? at : at;
            length =
                Edge(i + 1, "end") + 1 - begin ?? (i == track.Clips.Count - 1 && track.Motion is { } m ? m.FrameCount - begin : length);
            blocks.Add((JsonNode)new JsonArray(begin, Math.Max(begin, begin + length - 1), source?.TakeName ?? "gone"));
            at = begin + length;
        }

        // A loop is made of its cycles; what they are cut from is gone over.
        if (track.State.Last(SceneOperations.Loop.Name)?.Report is { } loop && track.Motion is { } cycles)
        {
            var (length, stride) = ((int)loop["cycleFrames"]!, (double)loop["strideMetres"]!);
            var count = (cycles.FrameCount - 1) / Math.Max(1, length);
            blocks =
            [
                .. Enumerable.Range(0, count).Select(k => (JsonNode)new JsonArray(k * length, ((k + 1) * length) - 1, $"cycle {k + 1}")),
            ];
            lanes.Add((JsonNode)Lane(track.Name, 'C', "blocks", $"{count} × {stride:0.00} m", ("blocks", blocks)));
            return;
        }

        var worst = overlaps.Select(o => (double?)o!["slideMillimetres"] ?? 0).DefaultIfEmpty(0).Max();
        var tally = overlaps.Count > 0 ? $"{worst:0.0} mm slide" : $"{track.Clips.Count} clip{(track.Clips.Count == 1 ? "" : "s")}";
        var lane = Lane(track.Name, track.Places is null ? 'C' : 'P', edited ? "track" : "blocks", tally, ("blocks", blocks));
        if (edited)
        {
            lane["node"] = track.Node.Id;
            lane["clips"] = track.SetUp?["clips"]?.DeepClone() ?? new JsonArray();
            lane["inPlace"] = (bool?)track.SetUp?["inPlace"];
            lane["overlap"] = (int?)track.SetUp?["overlap"] ?? 36;
            lane["lengths"] = new JsonArray([.. track.Clips.Select(c => (JsonNode)(open.Sources.GetValueOrDefault(c.Node)?.Frames ?? 0))]);
            lane["overlaps"] = Judged(overlaps, track);
            lane["cuts"] = track.State.Last(SceneOperations.Clips.Name)?.Report["cuts"]?.DeepClone() ?? new JsonArray();
        }

        lanes.Add((JsonNode)lane);
    }

    /// <summary>Overlaps with what is wrong there: jolt or slide, each must or look.</summary>
    private static JsonArray Judged(JsonArray overlaps, OpenScene.Track track)
    {
        var judged = (JsonArray)overlaps.DeepClone();
        foreach (var (clip, finding) in track.Joins)
        {
            var o = judged.First(x => (int)x!["clip"]! == clip && (int)x["start"]! == finding.Start)!;
            o[finding.Kind] = finding.Severity == Severity.MustFix ? "must" : "look";
        }

        return judged;
    }

    private static void AddLayers(JsonArray lanes, OpenScene.Track track)
    {
        foreach (var entry in track.Layers?.Node.Entries ?? [])
        {
            var joint = (string?)entry.Parameters["joint"] ?? "?";
            var keys = new JsonArray([
                .. (entry.Parameters["keys"] as JsonArray ?? []).Select(k =>
                    (JsonNode)new JsonArray((int)(double)k!["frame"]!, (bool?)k["release"] == true)
                ),
            ]);
            var side = Enum.TryParse<BodyRole>(joint, out var role) ? BodyRoles.Side(role) : 'C';
            var tally = entry.On ? $"{(double?)entry.Parameters["weight"] * 100 ?? 100:0} %" : "off";
            lanes.Add((JsonNode)Lane($"{track.Name}, layer on {joint}", side, "keys", tally, ("keys", keys)));
        }
    }
}
