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
    /// <summary>A performer of a take beside which another recording of the performance may lie.</summary>
    public sealed record Place(int Take, string TakeName, int Performer, string Name)
    {
        public string Key => $"{Take}:{Performer}";
    }

    private const int MostPlaces = 60;

    /// <summary>Where a suit or films may lie beside what there is, the newest takes first.</summary>
    public async Task<IReadOnlyList<Place>> Places(CancellationToken cancel = default) =>
        await db
            .Takes.Where(t => t.State == TakeState.Kept)
            .SelectMany(t => t.Parts, (take, part) => new { take, part })
            .Where(x =>
                x.part.Subject!.Kind == SubjectKind.Performer
                && !db.Streams.Any(s => s.TakeId == x.take.Id && s.SubjectId == x.part.SubjectId && s.Kind == StreamKind.Motion)
            )
            .OrderByDescending(x => x.take.Id)
            .ThenBy(x => x.part.Position)
            .Take(MostPlaces)
            .Select(x => new Place(x.take.Id, x.take.Name, x.part.SubjectId, x.part.Subject!.Name))
            .ToListAsync(cancel);

    /// <summary>Puts another recording of a performance beside the take. What was recorded is never written over: there is one of each kind.</summary>
    /// <returns>The name of the take.</returns>
    /// <exception cref="RefusedException">The file is neither a suit's nor films, the take has one already, or there is no such performer in it.</exception>
    public async Task<string> Beside(ImportedFile file, string place, CancellationToken cancel = default)
    {
        var there = (await Places(cancel)).FirstOrDefault(p => p.Key == place)
            ?? throw new RefusedException("that performer is not on the slate of the take (any more)");
        if (file.Suit is null && file.Films is null)
        {
            throw new RefusedException("only what a suit measured and films lie beside a take: markers and motions are takes of their own");
        }

        var kind = file.Suit is not null ? StreamKind.Suit : StreamKind.Film;
        if (await db.Streams.AnyAsync(s => s.TakeId == there.Take && s.SubjectId == there.Performer && s.Kind == kind, cancel))
        {
            throw new RefusedException(
                $"{there.Name} has {(kind == StreamKind.Suit ? "a suit's recording" : "films")} in {there.TakeName} already"
            );
        }

        room.Want(file.Bytes);
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var store = new SampleStore(db);
        if (file.Suit is { } suit)
        {
            await store.WriteSuit(there.Take, there.Performer, suit, cancel);
        }
        else
        {
            await store.WriteFilms(there.Take, there.Performer, file.Films!, cancel: cancel);
        }

        await transaction.CommitAsync(cancel);
        return there.TakeName;
    }

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

        var name = SlateName.Of(file.Name);
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
        catch (Exception e) when (e is ArgumentException or RefusedException or InvalidOperationException or KeyNotFoundException)
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
        catch (Exception e) when (e is ArgumentException or RefusedException or InvalidInputException)
        {
            // A skeleton that is no body can be looked at and handed off all the same.
            return motion;
        }
    }
}
