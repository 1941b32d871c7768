using System.IO.Compression;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;

namespace Eidolon.Studio.Services;

/// <summary>
/// A track's clips as an assembly plan for the shell, and back: the plan with the motions its clips are cut from in one archive, a clip's file named after
/// its take.
/// </summary>
public sealed class PlanFiles(SceneService scenes)
{
    /// <summary>The plan's name in its archive.</summary>
    public const string PlanName = "plan.json";

    /// <summary>A plan is text by hand: larger than this it is none, bytes.</summary>
    private const int MostBytes = 1 << 20;

    /// <summary>Writes the plan of a track and its clips' motions as a ZIP archive.</summary>
    /// <param name="node">The track.</param>
    /// <exception cref="RefusedException">There is no such track, it is a prop's, or a clip's take has no motion any more.</exception>
    public void Write(int scene, int node, Stream stream)
    {
        var open = scenes.Open(scene);
        var track = open.Tracks.FirstOrDefault(t => t.Node.Id == node) ?? throw new RefusedException("that track is gone");
        if (track.SetUp is not { } said || track.Places is not null)
        {
            throw new RefusedException("only clips of a character make a plan");
        }

        var names = Names(open, track);
        if (track.Clips.Any(c => !names.ContainsKey(c.Node)))
        {
            throw new RefusedException("a clip's take is gone, or its cast is switched off");
        }

        var motions = track
            .Clips.Select(c => c.Node)
            .Distinct()
            .ToDictionary(
                n => n,
                n =>
                    (open.Look.Runner.Value(n) as MotionValue)?.Motion ?? throw new RefusedException("a clip's take has no motion any more")
            );
        using var archive = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true);
        using (var plan = archive.CreateEntry(PlanName).Open())
        {
            plan.Write(
                AssemblyPlanJson.Write(
                    said,
                    open.FrameRate,
                    n => names[n] + ".glb",
                    track.State.Node.Entries.LastOrDefault(e => e.On && e.Operation == SceneOperations.Loop.Name)?.Parameters,
                    Layers(track).Select(e => e.Parameters)
                )
            );
        }

        foreach (var (source, motion) in motions)
        {
            // A writer of glTF goes back in its stream; an archive's cannot.
            using var file = new MemoryStream();
            GltfWriter.WriteSkeleton(file, motion, names[source]);
            using var entry = archive.CreateEntry(names[source] + ".glb").Open();
            file.WriteTo(entry);
        }
    }

    /// <summary>
    /// The entries of a track as a plan says them, its clips first; its files are takes of the track's character by their names. A layer that lies over
    /// the track already is not laid again.
    /// </summary>
    /// <exception cref="InvalidInputException">It is no plan, or says something a track cannot; names the place and the reason.</exception>
    /// <exception cref="RefusedException">There is no such track.</exception>
    public IReadOnlyList<NewEntry> Read(int scene, int node, byte[] bytes, string file)
    {
        if (bytes.Length > MostBytes)
        {
            throw new InvalidInputException(file, "file", "it is larger than a plan can be");
        }

        var plan = AssemblyPlanJson.Read(bytes, file);
        var open = scenes.Open(scene);
        var track = open.Tracks.FirstOrDefault(t => t.Node.Id == node) ?? throw new RefusedException("that track is gone");
        if (plan.FrameRate is { } rate && Math.Abs(rate - open.FrameRate) > 1e-6)
        {
            throw new InvalidInputException(file, "frameRate", $"the scene has {open.FrameRate:0.###} frames a second, not {rate:0.###}");
        }

        var nodes = Names(open, track).ToDictionary(n => n.Value, n => n.Key);
        var clips = AssemblyPlanJson.ClipsOf(bytes, (name, i) =>
            nodes.TryGetValue(Path.GetFileNameWithoutExtension(name), out var source)
                ? source
                : throw new InvalidInputException(
                    file,
                    $"clips[{i}].file",
                    $"no take of the {track.Subject.Name} is called '{Path.GetFileNameWithoutExtension(name)}'"
                )
        );
        var loop = plan.Loop is { } l ? [new NewEntry(SceneOperations.Loop.Name, l, track.Node.Id)] : Array.Empty<NewEntry>();
        var known = Layers(track);
        var layers = plan
            .Layers.Where(l => !known.Any(e => SceneOperations.Layer.Entry(l).Means(e)))
            .Select(l => new NewEntry(SceneOperations.Layer.Name, l, track.LayerNode?.Id));
        return [new NewEntry(SceneOperations.Clips.Name, clips, track.Node.Id), .. loop, .. layers];
    }

    private static IReadOnlyList<Entry> Layers(OpenScene.Track track) =>
        [.. track.Layers?.Node.Entries.Where(e => e.On && e.Operation == SceneOperations.Layer.Name) ?? []];

    /// <summary>Names of what clips of a track can be cut from, by node: the take's, counted on where a take has several.</summary>
    private Dictionary<int, string> Names(OpenScene open, OpenScene.Track track) =>
        scenes
            .ClipsFor(open, track.Subject.Id)
            .GroupBy(c => c.TakeName)
            .SelectMany(take => take.OrderBy(c => c.Node).Select((c, i) => (c.Node, Name: i == 0 ? take.Key : $"{take.Key} {i + 1}")))
            .ToDictionary(n => n.Node, n => n.Name);
}
