using Eidolon.Core.Ledgers;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Api;

/// <summary>Interactive edits: a control that moves asks for the pose it would give.</summary>
public sealed class HoldHub(HoldSessions sessions, TrackSessions tracks) : Hub
{
    /// <summary>The pose of a cast at a frame under a set-up that is being tried.</summary>
    public HoldSessions.Answer Pose(int take, int cast, int frame, string? parameters) =>
        Answered(() => sessions.Pose(Context.ConnectionId, take, cast, frame, parameters ?? "{}"));

    /// <summary>The pose of a track at a frame while one of its clips is dragged.</summary>
    public byte[] Clip(int scene, int node, int clip, int frame, string? parameters) =>
        Answered(() => tracks.Pose(Context.ConnectionId, scene, node, clip, frame, parameters ?? "{}"));

    /// <summary>The hand let go: the next move begins on what there is then.</summary>
    public void Done()
    {
        sessions.Close(Context.ConnectionId);
        tracks.Close(Context.ConnectionId);
    }

    public override Task OnDisconnectedAsync(Exception? exception)
    {
        Done();
        return base.OnDisconnectedAsync(exception);
    }

    private static T Answered<T>(Func<T> ask)
    {
        try
        {
            return ask();
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            throw new HubException(e.Message);
        }
    }
}
