using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>A scene opened: its tracks, and the layers over them.</summary>
public sealed class OpenScene
{
    public OpenScene(Scene scene, LedgerLook look, IReadOnlyDictionary<int, Subject> subjects, IReadOnlyDictionary<int, SceneClip> sources)
    {
        (Scene, Look, Sources) = (scene, look, sources);
        Tracks =
        [
            .. look.Of(NodeKind.Track)
                .GroupBy(n => n.SubjectId)
                .SelectMany(own =>
                    own.Select(
                        (n, i) =>
                        {
                            var subject = subjects.TryGetValue(n.SubjectId, out var s) ? s : new Subject { Name = "gone from the library" };
                            var name = i == 0 ? subject.Name : $"{subject.Name} {i + 1}";
                            return new Track(name, subject, n, look.LayersOver(n), look);
                        }
                    )
                ),
        ];
    }

    /// <summary>A clip's source: the cast or prop of a take that it is cut from.</summary>
    /// <param name="TakeName">Of the take; of a clip with a motion of its own, the clip's.</param>
    /// <param name="Who">The performer, for people; where a motion of its own comes from.</param>
    public sealed record SceneClip(int Node, string TakeName, string Who, int Frames, double FrameRate, string Postures);

    /// <summary>A card of the library: all of a source, or a stretch of it that somebody has kept.</summary>
    /// <param name="End">Exclusive.</param>
    /// <param name="Row">Of a clip that was kept; null for a whole cast.</param>
    public sealed record LibraryClip(SceneClip Source, int Start, int End, string Name, string Postures, ClipRow? Row)
    {
        /// <summary>Its name in addresses: the node and its frames.</summary>
        public string Key => $"{Source.Node}:{Start}:{End}";
    }

    /// <summary>A character, performer or prop of the scene.</summary>
    /// <param name="Name">The subject's; counted on where it has several tracks.</param>
    /// <param name="Node">The clips.</param>
    /// <param name="LayerNode">What lies over them; null for a prop.</param>
    public sealed record Track(string Name, Subject Subject, NodeRow Node, NodeRow? LayerNode, LedgerLook Look)
    {
        private readonly Lazy<NodeValue?> _value = new(() => Look.Value(LayerNode ?? Node));

        /// <summary>How the clips stand.</summary>
        public NodeState State { get; } = Look.State(Node);

        public NodeState? Layers { get; } = LayerNode is null ? null : Look.State(LayerNode);

        /// <summary>With the layers on it.</summary>
        public Motion? Motion => (_value.Value as MotionValue)?.Motion;

        /// <summary>What people have decided about contacts, as the clips brought it along.</summary>
        public IReadOnlyList<ContactEdit> Contacts => (_value.Value as MotionValue)?.Contacts ?? [];

        public PropPlaces? Places => (_value.Value as PlacesValue)?.Places;

        public UInt128 Shown => (Layers ?? State).Shown ?? 0;

        public IReadOnlyList<SceneOperations.Clip> Clips => SetUp is { } e ? SceneOperations.ClipsOf(e) : [];

        /// <summary>Jolts and slides where its clips go over into one another; a loop of them has none of these moments any more.</summary>
        public IReadOnlyList<TrackFindings.OfClip> Joins =>
            State.Last(SceneOperations.Loop.Name) is null ? TrackFindings.Of(State.Last(SceneOperations.Clips.Name)?.Report, Name) : [];

        /// <summary>What is said of the track's clips: which, and how each is played.</summary>
        public JsonObject? SetUp => State.Node.Entries.FirstOrDefault(e => e.Operation == SceneOperations.Clips.Name)?.Parameters;
    }

    public Scene Scene { get; }

    public LedgerLook Look { get; }

    public IReadOnlyList<Track> Tracks { get; }

    /// <summary>Where the clips come from, by node.</summary>
    public IReadOnlyDictionary<int, SceneClip> Sources { get; }

    /// <summary>Tracks that have a motion.</summary>
    public IEnumerable<Track> Moving => Tracks.Where(t => t.Motion is not null);

    /// <summary>The longest track's frames.</summary>
    public int FrameCount => Tracks.Select(t => t.Motion?.FrameCount ?? t.Places?.FrameCount ?? 0).DefaultIfEmpty(0).Max();

    public double FrameRate => Tracks.Select(t => t.Motion?.FrameRate ?? t.Places?.FrameRate).FirstOrDefault(r => r is not null) ?? 120;

    /// <summary>Name of everything that is shown.</summary>
    public string State => ContentHash.Text(ContentHash.Of(string.Join('|', Tracks.Select(t => $"{t.Shown}{t.State.UpToDate}"))));

    public IReadOnlyList<string> OutOfDate =>
        [.. Tracks.Where(t => t.State.OutOfDate || t.Layers is { OutOfDate: true }).Select(t => t.Name)];

    public IReadOnlyList<string> Troubles =>
        [
            .. Tracks
                .SelectMany(t => new[] { t.State, t.Layers })
                .Where(s => s is not null && !s.UpToDate && !s.OutOfDate && s.Reason.Length > 0)
                .Select(s => s!.Reason)
                .Distinct(),
        ];
}
