using System.Collections.Concurrent;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Studio.Api;

namespace Eidolon.Studio.Services;

/// <summary>What hands are on: the state of each interactive edit, by connection. Nothing of it goes through the Ledger until the hand lets go.</summary>
public sealed class HoldSessions(IServiceScopeFactory scopes)
{
    private readonly ConcurrentDictionary<string, (int Node, HoldPreview Preview)> _open = new();

    /// <summary>One frame as a page draws it, and how far hands and feet are from the performer's.</summary>
    public sealed record Answer(byte[] Pose, IReadOnlyDictionary<string, double> Drift);

    /// <summary>Answers the pose of a cast at a frame under a set-up that is being tried.</summary>
    /// <exception cref="RefusedException">There is no such cast, or it has no motion to go by; says why.</exception>
    public Answer Pose(string connection, int take, int cast, int frame, string parameters)
    {
        var preview = Preview(connection, take, cast);
        var setup = RetargetOperation.SetupFrom(ParameterJson.Parse(parameters));
        frame = Math.Clamp(frame, 0, preview.FrameCount - 1);
        var (pose, drift) = preview.At(frame, setup);
        return new Answer(FigureJson.MotionBytes(pose), drift.ToDictionary(d => d.Key.ToString(), d => Math.Round(d.Value, 1)));
    }

    public void Close(string connection) => _open.TryRemove(connection, out _);

    private HoldPreview Preview(string connection, int take, int cast)
    {
        // While a hand moves, the state it began on is held.
        if (_open.TryGetValue(connection, out var open) && open.Node == cast)
        {
            return open.Preview;
        }

        using var scope = scopes.CreateScope();
        var opened = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take);
        var role = opened.Casts.FirstOrDefault(c => c.Node.Id == cast) ?? throw new RefusedException("that cast is gone");
        var source = opened.Performers.FirstOrDefault(p => p.Node.SubjectId == role.Node.SubjectId);
        var motion = source?.Motion ?? throw new RefusedException("the take is not solved yet");
        var preview = new HoldPreview(motion, opened.Resources.Character(role.Node.TargetId), source.Contacts);
        _open[connection] = (cast, preview);
        return preview;
    }
}
