using Eidolon.Core;
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
public sealed class TakeImport(EidolonDb db, Productions productions, DiskRoom room)
{
    /// <summary>One transaction a file: it is in as a whole or not at all.</summary>
    /// <param name="performers">Ids of who performed, in the order of the slate.</param>
    public async Task<Take> Add(ImportedFile file, int day, IReadOnlyList<int> performers, CancellationToken cancel = default)
    {
        room.Want(file.Bytes);
        day = (await productions.Day(day, cancel)).Id;

        if (await db.Shelf.CountAsync(s => performers.Contains(s.Id) && s.Kind == SubjectKind.Performer, cancel) != performers.Count)
        {
            throw new RefusedException("a performer that was chosen is gone from the library");
        }

        var name = Path.GetFileNameWithoutExtension(file.Name);
        var motion = file.Motion is null ? null : WithRoles(file.Motion);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var take = new Take
        {
            ShootDayId = day,
            Name = await TakeMaker.FreeName(db, day, name, cancel),
            SetUp = name,
            Number = 1,
            FrameRate = file.FrameRate,
            FrameCount = file.FrameCount,
            State = TakeState.Kept,
            Note = file.Warnings.Count > 0 ? string.Join("; ", file.Warnings) : "Brought in",
        };
        await TakeMaker.Add(db, take, file.Markers is not null ? performers : performers.Take(1).ToList(), [], cancel);
        // A motion has nothing to label, clean or solve: its next Step is Retarget; suit and films are solved.
        take.Through =
            motion is not null ? 0b1111
            : file.Markers is null ? 0b0111
            : take.Through;
        var store = new SampleStore(db);
        if (file.Markers is not null)
        {
            await store.WriteMarkers(take.Id, file.Markers, cancel);
        }
        else if (performers.Count == 0)
        {
            throw new RefusedException(
                (
                    motion is not null ? "a motion wants"
                    : file.Suit is not null ? "a suit wants"
                    : "films want"
                ) + " somebody who performed it: choose a performer"
            );
        }
        else if (file.Suit is { } suit)
        {
            await store.WriteSuit(take.Id, performers[0], suit, cancel);
        }
        else if (file.Films is { } films)
        {
            await store.WriteFilms(take.Id, performers[0], films, cancel: cancel);
        }
        else
        {
            await store.WriteMotion(take.Id, performers[0], new MotionValue(motion!), cancel);
        }

        await transaction.CommitAsync(cancel);
        return take;
    }

    /// <summary>A figure for a skeleton from elsewhere: a body where its roles were found, otherwise bones alone.</summary>
    public static byte[] Figure(Motion motion, string name)
    {
        try
        {
            return GltfSkinWriter.Write(motion.Skeleton, PerformerFigure.Of(motion.Skeleton, motion.Morphs.Count > 0), name);
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
        catch (Exception e) when (e is ArgumentException or InvalidInputException)
        {
            // A skeleton that is no body can be looked at and handed off all the same.
            return motion;
        }
    }
}
