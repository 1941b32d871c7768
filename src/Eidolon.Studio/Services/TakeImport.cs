using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Makes takes of files that others recorded: markers, or a finished motion of a skeleton.</summary>
public sealed class TakeImport(EidolonDb db)
{
    /// <summary>One transaction a file: it is in as a whole or not at all.</summary>
    public async Task<Take> Add(ImportedFile file, int day, string performer, CancellationToken cancel = default)
    {
        var name = Path.GetFileNameWithoutExtension(file.Name);
        var free = name;
        for (var k = 2; await db.Takes.AnyAsync(t => t.Name == free, cancel); k++)
        {
            free = $"{name}_{k}";
        }

        var motion = file.Motion is null ? null : WithRoles(file.Motion);
        var markers = file.Markers ?? new MarkerTake([], file.FrameRate, file.FrameCount);
        var take = new Take
        {
            ShootDayId = day,
            Name = free,
            SetUp = name,
            Number = 1,
            Performer = performer,
            FrameRate = file.FrameRate,
            FrameCount = file.FrameCount,
            Channels = string.Join('\n', markers.Names),
            RawHash = (
                motion is null
                    ? SampleStore.Hash(markers.Bytes)
                    : SampleStore.Hash(System.Runtime.InteropServices.MemoryMarshal.AsBytes(motion.Rotations.AsSpan()))
            ).ToString("x"),
            State = TakeState.Kept,
            CreatedUtc = DateTime.UtcNow,
            Note = file.Warnings.Count > 0 ? string.Join("; ", file.Warnings) : "Brought in",
        };
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        db.Takes.Add(take);
        await db.SaveChangesAsync(cancel);
        var store = new SampleStore(db);
        if (motion is null)
        {
            await store.WriteMarkers(take.Id, markers, cancel);
        }
        else
        {
            await store.WriteMotion(take.Id, new TakeData(markers, motion), cancel);
        }

        await transaction.CommitAsync(cancel);
        if (motion is not null && motion.Skeleton.IndexOf(BodyRole.Pelvis) >= 0)
        {
            (await db.Takes.FirstAsync(t => t.Id == take.Id, cancel)).Postures = Postures.Svg(motion);
            await db.SaveChangesAsync(cancel);
        }

        return take;
    }

    /// <summary>A figure for a skeleton from elsewhere: a body where its roles were found, otherwise bones alone.</summary>
    public static byte[] Figure(Motion motion, string name)
    {
        try
        {
            return GltfSkinWriter.Write(motion.Skeleton, BodyParts.Figure(motion.Skeleton), name);
        }
        catch (Exception e) when (e is ArgumentException or InvalidOperationException or KeyNotFoundException)
        {
            using var stream = new MemoryStream();
            GltfWriter.WriteSkeleton(stream, MotionEdits.Range(motion, 0, 1));
            return stream.ToArray();
        }
    }

    private static Motion WithRoles(Motion motion)
    {
        try
        {
            return motion.Skeleton.IndexOf(BodyRole.Pelvis) >= 0 ? motion : motion.On(RoleFinder.Assign(motion.Skeleton, null, "the file"));
        }
        catch (Exception e) when (e is ArgumentException or Core.InvalidInputException)
        {
            // A skeleton that is no body can be looked at and handed off all the same.
            return motion;
        }
    }
}
