using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Assembly;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
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
            var planned = SceneOperations.Planned([.. clips.Select(c => session.Sources[c.Node])], wish);
            var before = $"{wish["overlap"]}: {string.Join(',', ((JsonArray)wish["clips"]!).Take(clip).Select(c => c!.ToJsonString()))}";
            if (session.Preview is null || session.Before != before)
            {
                (session.Preview, session.Before) = (new TrackPreview(planned[..clip]), before);
            }

            return FigureJson.MotionBytes(session.Preview.At(planned, Math.Max(0, frame)));
        }
    }

    public void Close(string connection) => _open.TryRemove(connection, out _);

    private Session Begin(int scene, int node, IReadOnlyList<SceneOperations.Clip> clips)
    {
        using var scope = scopes.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<SceneService>().Open(scene);
        if (open.Tracks.All(t => t.Node.Id != node))
        {
            throw new RefusedException("that track is gone");
        }

        var session = new Session(node);
        foreach (var source in clips.Select(c => c.Node).Distinct())
        {
            session.Sources[source] = open.Look.Runner.Value(source) ?? throw new RefusedException("a clip's take has no motion any more");
        }

        return session;
    }
}
