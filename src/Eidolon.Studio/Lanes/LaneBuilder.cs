using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Lanes;

/// <summary>The strips under the Stage of a take, by Step.</summary>
internal static class LaneBuilder
{
    /// <param name="gaps">The gaps of every marker of the state.</param>
    public static JsonArray Build(OpenTake open, IReadOnlyList<Gap>[] gaps, string step) =>
        step switch
        {
            "label" => MarkerLanes.Label(open, gaps),
            "clean" => MarkerLanes.Clean(open, gaps),
            "solve" => MotionLanes.Solve(open, gaps),
            "retarget" => MotionLanes.Retarget(open, gaps),
            _ => [],
        };
}
