using System.IO.Hashing;
using System.Numerics;
using System.Text.Json;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Exports: write, read back, compare, keep with a receipt.</summary>
public sealed class HandOffService(TakeService takes, EidolonDb db)
{
    public async Task<HandOff> Write(int takeId, HandOffSettings s, CancellationToken cancel = default)
    {
        var open = await takes.Open(takeId, cancel);
        var character = s.Who == "character" && open.Data.Character is not null;
        var motion = (character ? open.Data.Character : open.Data.Performer ?? open.Data.Character)
            ?? throw new ArgumentException("The take has no motion yet: solve it first.");
        if (
            s.Format is not ("bvh" or "glb")
            || !(s.Rate is > 0 and <= 1000)
            || !Units.TryMetres(s.Units, out var metres)
            || s.Up is not ("Y" or "Z")
        )
        {
            throw new ArgumentException("Choose BVH or GLB, a rate above zero, a unit and an up axis.");
        }

        var end = Math.Min(s.End, motion.FrameCount - 1);
        if (s.Start < 0 || s.Start >= end)
        {
            throw new ArgumentException(
                $"The range {s.Start} to {s.End} holds no motion; the take has frames 0 to {motion.FrameCount - 1}."
            );
        }

        motion = MotionEdits.Resample(MotionEdits.Range(motion, s.Start, end + 1), s.Rate);
        motion = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, motion.Translations);
        motion = s.InPlace ? MotionEdits.InPlace(motion) : motion;
        motion = s.RestFrame && s.Format == "bvh" ? MotionEdits.WithRestFrame(motion) : motion;
        var who = character ? open.Data.CharacterName! : open.FirstPerformer;
        var name = $"{who.ToLowerInvariant()}_{open.Take.Name}.{s.Format}";
        using var stream = new MemoryStream();
        if (s.Format == "glb" && character)
        {
            var glb = await db.Characters.AsNoTracking().Where(c => c.Name == who).Select(c => c.Glb).FirstAsync(cancel);
            GltfWriter.WriteCharacter(stream, glb, who + ".glb", motion, open.Take.Name);
        }
        else
        {
            MotionFiles.WriteMotion(stream, "." + s.Format, motion, s.Units, s.Up);
        }

        var bytes = stream.ToArray();
        var back = MotionFiles.ReadMotion(bytes, name, s.Format == "bvh" ? metres : null);
        var worst = Worst(
            motion,
            s.Format == "bvh" && s.Up == "Z" ? MotionEdits.Turn(back, Quaternion.Conjugate(MotionFiles.YUpToZUp)) : back
        );
        var handOff = new HandOff
        {
            TakeId = takeId,
            FileName = name,
            Settings = JsonSerializer.Serialize(s),
            Data = bytes,
            Frames = back.FrameCount,
            FrameRate = back.FrameRate,
            ReadBackMillimetres = worst,
            Checksum = XxHash64.HashToUInt64(bytes).ToString("x16"),
            CreatedUtc = DateTime.UtcNow,
        };
        db.HandOffs.Add(handOff);
        await db.SaveChangesAsync(cancel);
        return handOff;
    }

    /// <summary>Largest distance of a joint between what was meant and what the file holds, millimetres; infinite when joints or frames are missing.</summary>
    private static double Worst(Motion meant, Motion back)
    {
        if (meant.FrameCount != back.FrameCount || meant.Skeleton.Joints.Any(j => back.Skeleton.IndexOf(j.Name) < 0))
        {
            return double.PositiveInfinity;
        }

        var a = ForwardKinematics.WorldPositions(meant);
        var b = ForwardKinematics.WorldPositions(back);
        int n = meant.Skeleton.Count,
            m = back.Skeleton.Count;
        var map = meant.Skeleton.Joints.Select(j => back.Skeleton.IndexOf(j.Name)).ToArray();
        double worst = 0;
        for (var f = 0; f < meant.FrameCount; f++)
        {
            for (var j = 0; j < n; j++)
            {
                worst = Math.Max(worst, (a[(f * n) + j] - b[(f * m) + map[j]]).Length() * 1000);
            }
        }

        return worst;
    }
}
