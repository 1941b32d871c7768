using System.IO.Hashing;
using System.Numerics;
using System.Text.Json;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Exports of a scene's characters and props: write what is up to date, read it back, compare, keep with a receipt.</summary>
public sealed class HandOffService(IDbContextFactory<EidolonDb> factory, BlobStore blobs, SceneService scenes, TakeService takes)
{
    /// <summary>Writes one file for each track that is asked for; of several all or none.</summary>
    /// <exception cref="RefusedException">Nothing can be written, or a track is out of date; says which and why.</exception>
    public async Task<IReadOnlyList<HandOff>> Write(int sceneId, HandOffSettings s, CancellationToken cancel = default)
    {
        var open = scenes.Open(sceneId);
        if (
            s.Format is not ("bvh" or "glb")
            || !(s.Rate is > 0 and <= 1000)
            || !Units.TryMetres(s.Units, out _)
            || s.Up is not ("Y" or "Z")
        )
        {
            throw new RefusedException("Choose BVH or GLB, a rate above zero, a unit and an up axis.");
        }

        var tracks = open.Tracks.Where(t => s.Track == 0 ? t.Shown != 0 : t.Node.Id == s.Track).ToArray();
        if (tracks.Length == 0)
        {
            throw new RefusedException("The scene has no motion yet: solve and retarget its takes first.");
        }

        // All of them are up to date before the first is written.
        var targets = tracks.Select(t => (Track: t, Target: Target(open, t, cancel))).ToArray();
        var done = new List<HandOff>();
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (var (track, target) in targets)
        {
            done.Add(await Written(db, open, track, target, s, cancel));
        }

        await db.SaveChangesAsync(cancel);
        if (open.Scene.TakeId is { } take)
        {
            takes.Refresh(take);
        }

        return done;
    }

    private static Target Target(OpenScene open, OpenScene.Track track, CancellationToken cancel)
    {
        try
        {
            return open.Look.Runner.Target((track.LayerNode ?? track.Node).Id, run: false, cancel: cancel);
        }
        catch (RefusedException e)
        {
            throw new RefusedException($"{track.Name} cannot be exported: {e.Message}", e);
        }
    }

    private async Task<HandOff> Written(
        EidolonDb db,
        OpenScene open,
        OpenScene.Track track,
        Target target,
        HandOffSettings s,
        CancellationToken cancel
    )
    {
        var motion = Meant(MotionOf(target.Value, track.Name), s);
        var name = $"{track.Name.ToLowerInvariant().Replace(' ', '-')}_{open.Scene.Name.Replace(' ', '-')}.{s.Format}";
        var (bytes, version) = Bytes(db, open, track, motion, s);
        var receipt = Compared(motion, bytes, name, target, version, s, out var back);
        var blob = await blobs.Keep(db, bytes, cancel);
        var handOff = new HandOff
        {
            SceneId = open.Scene.Id,
            SubjectId = track.Subject.Id,
            FileName = name,
            Settings = JsonSerializer.Serialize(s),
            Receipt = receipt.ToJson(),
            BlobId = blob.Id,
            Length = bytes.Length,
            Frames = back.FrameCount,
            FrameRate = back.FrameRate,
            ReadBackMillimetres = receipt.ReadBack.Millimetres,
            Checksum = XxHash64.HashToUInt64(bytes).ToString("x16"),
            CreatedUtc = DateTime.UtcNow,
        };
        db.HandOffs.Add(handOff);
        return handOff;
    }

    /// <summary>Reads the file back as anybody would, and compares it with the part of the motion that it can hold.</summary>
    private static HandOffReceipt Compared(
        Motion motion,
        byte[] bytes,
        string name,
        Target target,
        int version,
        HandOffSettings s,
        out Motion back
    )
    {
        Units.TryMetres(s.Units, out var metres);
        back = MotionFiles.ReadMotion(bytes, name, s.Format == "bvh" ? metres : null);
        var upright = s.Format == "bvh" && s.Up == "Z" ? MotionEdits.Turn(back, Quaternion.Conjugate(MotionFiles.YUpToZUp)) : back;
        // A face is held by a mesh with its shapes; a BVH and a bare skeleton have none.
        IReadOnlySet<string> shapes = s.Format == "bvh" ? new HashSet<string>() : GltfContents.MorphNames(bytes, name);
        string[] without = [.. motion.Morphs.Keys.Where(m => !shapes.Contains(m))];
        var held = motion.With([.. motion.Morphs.Where(m => shapes.Contains(m.Key))]);
        return new HandOffReceipt(
            ContentHash.Text(target.Content),
            [.. target.Inputs.Select(ContentHash.Text)],
            version,
            // A BVH has no rest turns of its own: its orientations are of other axes, its positions tell.
            ReadBack.Of(held, upright, holdsOrientations: s.Format != "bvh"),
            [.. without.Select(m => $"face weight {m}")]
        );
    }

    /// <summary>A character's or performer's motion; a prop's as that of one joint.</summary>
    private static Motion MotionOf(NodeValue value, string name) =>
        value switch
        {
            MotionValue m => m.Motion,
            PlacesValue p => p.Places.AsMotion(name),
            _ => throw new RefusedException($"{name} has no motion"),
        };

    /// <summary>The motion that the file is to hold: the range, at its rate, in place or travelling.</summary>
    private static Motion Meant(Motion motion, HandOffSettings s)
    {
        var end = Math.Min(s.End, motion.FrameCount - 1);
        if (s.Start < 0 || s.Start >= end)
        {
            throw new RefusedException(
                $"The range {s.Start} to {s.End} holds no motion; the scene has frames 0 to {motion.FrameCount - 1}."
            );
        }

        motion = MotionEdits.Resample(MotionEdits.Range(motion, s.Start, end + 1), s.Rate).From(0);
        motion = s.InPlace ? MotionEdits.InPlace(motion) : motion;
        return s.RestFrame && s.Format == "bvh" ? MotionEdits.WithRestFrame(motion) : motion;
    }

    /// <summary>The file, and which version of the subject is in it: the one its casts were made with.</summary>
    private (byte[] Bytes, int Version) Bytes(EidolonDb db, OpenScene open, OpenScene.Track track, Motion motion, HandOffSettings s)
    {
        using var stream = new MemoryStream();
        var version = open.Look.Nodes.VersionOf(track.Node, track.Subject.Id);
        if (s.Format == "glb" && track.Subject.Kind == SubjectKind.Character)
        {
            var glb = blobs.Read(db, version?.BlobId ?? throw new RefusedException($"{track.Subject.Name} has no file in the library"));
            GltfWriter.WriteCharacter(stream, glb, track.Subject.Name + ".glb", motion, open.Scene.Name);
        }
        else
        {
            MotionFiles.WriteMotion(stream, "." + s.Format, motion, s.Units, s.Up);
        }

        return (stream.ToArray(), version?.Number ?? 0);
    }
}
