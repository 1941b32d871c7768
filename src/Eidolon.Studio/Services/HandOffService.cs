using System.IO.Hashing;
using System.Numerics;
using System.Text.Json;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Exports of a scene's characters: write, read back, compare, keep with a receipt.</summary>
public sealed class HandOffService(IDbContextFactory<EidolonDb> factory, BlobStore blobs, SceneService scenes, TakeService takes)
{
    /// <summary>Writes one file for each track that is asked for.</summary>
    /// <exception cref="RefusedException">Nothing can be written; says why.</exception>
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

        var tracks = open.Moving.Where(t => s.Track == 0 || t.Node.Id == s.Track).ToArray();
        if (tracks.Length == 0)
        {
            throw new RefusedException("The scene has no motion yet: solve and retarget its takes first.");
        }

        var done = new List<HandOff>();
        foreach (var track in tracks)
        {
            done.Add(await Write(open, track, s, cancel));
        }

        if (open.Scene.TakeId is { } take)
        {
            takes.Refresh(take);
        }

        return done;
    }

    private async Task<HandOff> Write(OpenScene open, OpenScene.Track track, HandOffSettings s, CancellationToken cancel)
    {
        var motion = Meant(track.Motion!, s);
        var name = $"{track.Name.ToLowerInvariant().Replace(' ', '-')}_{open.Scene.Name.Replace(' ', '-')}.{s.Format}";
        await using var db = factory.CreateDbContext();
        var bytes = Bytes(db, open, track, motion, s);
        Units.TryMetres(s.Units, out var metres);
        var back = MotionFiles.ReadMotion(bytes, name, s.Format == "bvh" ? metres : null);
        var upright = s.Format == "bvh" && s.Up == "Z" ? MotionEdits.Turn(back, Quaternion.Conjugate(MotionFiles.YUpToZUp)) : back;
        var blob = await blobs.Keep(db, bytes, cancel);
        var handOff = new HandOff
        {
            SceneId = open.Scene.Id,
            SubjectId = track.Subject.Id,
            FileName = name,
            Settings = JsonSerializer.Serialize(s),
            BlobId = blob.Id,
            Length = bytes.Length,
            Frames = back.FrameCount,
            FrameRate = back.FrameRate,
            ReadBackMillimetres = ReadBack.Worst(motion, upright),
            Checksum = XxHash64.HashToUInt64(bytes).ToString("x16"),
            CreatedUtc = DateTime.UtcNow,
        };
        db.HandOffs.Add(handOff);
        await db.SaveChangesAsync(cancel);
        return handOff;
    }

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

        motion = MotionEdits.Resample(MotionEdits.Range(motion, s.Start, end + 1), s.Rate);
        motion = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, motion.Translations);
        motion = s.InPlace ? MotionEdits.InPlace(motion) : motion;
        return s.RestFrame && s.Format == "bvh" ? MotionEdits.WithRestFrame(motion) : motion;
    }

    private byte[] Bytes(EidolonDb db, OpenScene open, OpenScene.Track track, Motion motion, HandOffSettings s)
    {
        using var stream = new MemoryStream();
        if (s.Format == "glb" && track.Subject.Kind == SubjectKind.Character)
        {
            var version = SubjectLibrary.Current(db, track.Subject.Id).Version;
            var glb = blobs.Read(db, version?.BlobId ?? throw new RefusedException($"{track.Subject.Name} has no file in the library"));
            GltfWriter.WriteCharacter(stream, glb, track.Subject.Name + ".glb", motion, open.Scene.Name);
        }
        else
        {
            MotionFiles.WriteMotion(stream, "." + s.Format, motion, s.Units, s.Up);
        }

        return stream.ToArray();
    }
}
