using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Assembly;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Api;

namespace Eidolon.Studio.Services;

/// <summary>Clips that hands are on, by connection: the track as it would be, a frame at a time. Nothing is kept until the hand lets go.</summary>
public sealed class TrackSessions(IServiceScopeFactory scopes)
{
    private readonly ConcurrentDictionary<string, Session> _open = new();

    private sealed class Session(int node)
    {
        public int Node => node;

        /// <summary>What clips are cut from, as it was when the hand took hold.</summary>
        public Dictionary<int, NodeValue> Sources { get; } = [];

        /// <summary>The track as it was kept then, its clips as they were asked for first, and where each comes in: (start, free).</summary>
        public Motion? Kept { get; set; }

        public string[] Said { get; set; } = [];

        public Dictionary<int, (int Start, int Free)> Places { get; } = new() { [0] = (0, 0) };

        public string Before { get; set; } = string.Empty;

        public TrackPreview? Preview { get; set; }
    }

    /// <summary>The pose of a track's figure at a frame, with its clips as they are wished for.</summary>
    /// <param name="clip">Place of the clip that is dragged; those before it stay as they are.</param>
    /// <param name="parameters">Of the track's clips, as its entry would have them.</param>
    /// <exception cref="RefusedException">There is no such track or source, or the clips cannot be played so; says why.</exception>
    public byte[] Pose(string connection, int scene, int node, int clip, int frame, string parameters)
    {
        var wish = ParameterJson.Parse(parameters);
        var clips = SceneOperations.ClipsOf(wish);
        if (clip < 0 || clip >= clips.Count)
        {
            throw new RefusedException("that clip is gone");
        }

        if (!_open.TryGetValue(connection, out var session) || session.Node != node || clips.Any(c => !session.Sources.ContainsKey(c.Node)))
        {
            _open[connection] = session = Begin(scene, node, clips);
        }

        lock (session)
        {
            NodeValue[] inputs = [.. clips.Select(c => session.Sources[c.Node])];
            PlannedClip Planned(int i) => SceneOperations.Planned(inputs, clips, wish, i);
            var said = ((JsonArray)wish["clips"]!).Select(c => c!.ToJsonString()).ToArray();
            session.Said = session.Said.Length == 0 ? said : session.Said;
            var before = $"{wish["overlap"]}: {string.Join(',', said.Take(clip))}";
            if (session.Preview is null || session.Before != before)
            {
                (session.Preview, session.Before) = (Begin(session, clip, said, Planned), before);
            }

            return FigureJson.MotionBytes(session.Preview.At(Planned, clips.Count, Math.Max(0, frame)));
        }
    }

    /// <summary>What stands before a clip: where it is kept so, of the track itself; otherwise joined.</summary>
    private static TrackPreview Begin(Session session, int clip, string[] said, Func<int, PlannedClip> planned) =>
        session.Kept is { } kept
        && clip > 0
        && clip <= session.Said.Length
        && said.AsSpan(0, clip).SequenceEqual(session.Said.AsSpan(0, clip))
        && session.Places.TryGetValue(clip - 1, out var place)
            ? TrackPreview.Of(kept, planned(clip - 1), clip, place.Start, place.Free) ?? Joined(clip, planned)
            : Joined(clip, planned);

    private static TrackPreview Joined(int clip, Func<int, PlannedClip> planned) => new([.. Enumerable.Range(0, clip).Select(planned)]);

    public void Close(string connection) => _open.TryRemove(connection, out _);

    private Session Begin(int scene, int node, IReadOnlyList<SceneOperations.Clip> clips)
    {
        using var scope = scopes.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<SceneService>().Open(scene);
        var track = open.Tracks.FirstOrDefault(t => t.Node.Id == node) ?? throw new RefusedException("that track is gone");
        var session = new Session(node);
        // Its clips alone: a loop or layers over them are not what is dragged.
        if (track.State is { UpToDate: true } state && state.Node.Entries.Count == 1)
        {
            session.Kept = (open.Look.Runner.Value(node) as MotionValue)?.Motion;
            foreach (var overlap in (state.Last(SceneOperations.Clips.Name)?.Report["overlaps"] as JsonArray ?? []).OfType<JsonObject>())
            {
                var ends = Math.Max((int)overlap["end"]!, (int?)overlap["smoothed"]?[1] ?? 0);
                session.Places[(int)overlap["clip"]!] = ((int)overlap["start"]!, ends + 1);
            }
        }

        foreach (var source in clips.Select(c => c.Node).Distinct())
        {
            session.Sources[source] = open.Look.Runner.Value(source) ?? throw new RefusedException("a clip's take has no motion any more");
        }

        return session;
    }
}
