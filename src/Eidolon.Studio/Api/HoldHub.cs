using Eidolon.Core;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Api;

/// <summary>Interactive edits: a control that moves asks for the pose it would give.</summary>
public sealed class HoldHub(HoldSessions sessions) : Hub
{
    /// <summary>The pose of a cast at a frame under a set-up that is being tried.</summary>
    public HoldSessions.Answer Pose(int take, int cast, int frame, string? parameters)
    {
        try
        {
            return sessions.Pose(Context.ConnectionId, take, cast, frame, parameters ?? "{}");
        }
        catch (Exception e) when (e is RefusedException or ArgumentException)
        {
            throw new HubException(e.Message);
        }
    }

    /// <summary>The hand let go: the next move begins on what there is then.</summary>
    public void Done() => sessions.Close(Context.ConnectionId);

    public override Task OnDisconnectedAsync(Exception? exception)
    {
        sessions.Close(Context.ConnectionId);
        return base.OnDisconnectedAsync(exception);
    }
}
