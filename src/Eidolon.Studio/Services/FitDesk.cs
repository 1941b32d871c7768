using System.Numerics;
using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Performers whose bodies are put right by hand: what the markers of their measuring take say of a body, and keeping it as a version.</summary>
public sealed class FitDesk(IServiceScopeFactory scopes)
{
    /// <summary>Poses of the take in which a body is looked at, evenly over it.</summary>
    private const int Looks = 24;

    private readonly MemoCache<(int, string), Sitting> _sittings = new(200_000_000, s => 12L * s.Markers.Positions.Length);

    /// <summary>A performer and the take they were measured from.</summary>
    /// <param name="Frames">Frames of the take that are looked at.</param>
    /// <param name="Start">How the body as measured stands there.</param>
    public sealed record Sitting(
        Subject Subject,
        SubjectVersion Version,
        string TakeName,
        Performer Body,
        MarkerTake Markers,
        IReadOnlyList<int> Frames,
        BodyByHand.Standing Start
    );

    /// <summary>A body tried.</summary>
    /// <param name="Moves">Everything that was moved, in the T-pose; the drag that was asked for is the last.</param>
    public sealed record Tried(
        Performer Body,
        IReadOnlyList<BodyByHand.Move> Moves,
        BodyByHand.Standing Standing,
        IReadOnlyList<string> Said
    );

    /// <summary>A joint dragged in one of the looks.</summary>
    /// <param name="By">In the room, metres.</param>
    public sealed record Drag(BodyRole Role, int Look, Vector3 By, bool Alike);

    /// <summary>A performer stood in the markers they were measured from.</summary>
    /// <exception cref="RefusedException">They are not measured, or that take is gone.</exception>
    public Sitting Of(int performer)
    {
        using var scope = scopes.CreateScope();
        using var db = scope.ServiceProvider.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        if (
            SubjectLibrary.Current(db, performer)
            is not
            ({ Kind: SubjectKind.Performer } subject, { Measured: true, ReferenceTakeId: { } take } version)
        )
        {
            throw new RefusedException("this performer is not measured from a take yet: measure them first, then put right what is wrong");
        }

        return _sittings.Of((performer, version.Content), () => Sit(scope.ServiceProvider, subject, version, take));
    }

    /// <summary>The body with these moves, and one more, and what the markers say of it.</summary>
    public static Tried Try(Sitting sitting, IReadOnlyList<BodyByHand.Move> moves, Drag? drag)
    {
        var (body, said) = BodyByHand.With(sitting.Body, moves);
        if (drag is { } d)
        {
            var pose = BodyByHand.Stand(body, sitting.Markers, [sitting.Frames[d.Look]], [sitting.Start.Poses[d.Look]]).Poses[0];
            var joint = body.Skeleton.IndexOf(d.Role);
            var parent = joint < 0 ? -1 : Math.Max(0, body.Skeleton[joint].Parent);
            if (parent < 0)
            {
                throw new RefusedException($"the body has no joint '{d.Role}'");
            }

            // The bones' frames are those of the T-pose: what is dragged in a pose is turned back into it.
            var turn = BodyByHand.World(body, pose).Turns[parent];
            moves = [.. moves, new BodyByHand.Move(d.Role, Vector3.Transform(d.By, Quaternion.Conjugate(turn)), d.Alike)];
            (body, said) = BodyByHand.With(sitting.Body, moves);
        }

        return new Tried(body, moves, BodyByHand.Stand(body, sitting.Markers, sitting.Frames, sitting.Start.Poses), said);
    }

    /// <summary>Keeps a body that was put right as the performer's next version.</summary>
    public async Task<SubjectVersion> Keep(Sitting sitting, IReadOnlyList<BodyByHand.Move> moves, CancellationToken cancel)
    {
        if (moves.Count == 0)
        {
            throw new RefusedException("nothing was moved");
        }

        var tried = Try(sitting, moves, null);
        using var scope = scopes.CreateScope();
        return await scope
            .ServiceProvider.GetRequiredService<SubjectLibrary>()
            .Fit(
                sitting.Subject.Id,
                tried.Body,
                sitting.Markers,
                sitting.Version.ReferenceTakeId!.Value,
                tried.Standing.Mean,
                $"put right by hand: {string.Join(", ", moves.Select(m => m.Role.ToString()).Distinct())}",
                cancel
            );
    }

    private static Sitting Sit(IServiceProvider services, Subject subject, SubjectVersion version, int take)
    {
        var open = services.GetRequiredService<TakeService>().Open(take);
        var part = open.Take.Parts.Find(p => p.SubjectId == subject.Id);
        var own = CarriedMarkers.Own(string.IsNullOrEmpty(part?.Prefix) ? null : part.Prefix, open.Marked);
        var body = PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), subject.Name);
        var all = TakeSolver.Poses(body, own, 1);
        if (all.Count < Looks)
        {
            throw new RefusedException($"{open.Take.Name} shows {subject.Name} in too few frames");
        }

        var first = own.FrameCount - all.Count;
        int[] frames = [.. Enumerable.Range(0, Looks).Select(k => first + (k * (all.Count - 1) / (Looks - 1)))];
        return new Sitting(
            subject,
            version,
            open.Take.Name,
            body,
            own,
            frames,
            BodyByHand.Stand(body, own, frames, [.. frames.Select(f => all[f - first])])
        );
    }
}
