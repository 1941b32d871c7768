using Eidolon.StandIns.Acting;

namespace Eidolon.StandIns.Scenes;

/// <summary>A planned scene: who does what, and the props that follow a hand.</summary>
/// <param name="Name">Set-up name without the production prefix and number.</param>
internal sealed record ScenePlan(string Name, float Duration, IReadOnlyList<SceneCast> Cast, IReadOnlyList<SceneProp> Props, string Note)
{
    /// <summary>What stands on the stage and is no prop.</summary>
    public IReadOnlyList<Performance.SetPiece> SetPieces { get; init; } = [];

    /// <summary>What the performer's face does; null where nobody records it.</summary>
    public FaceAct? Face { get; init; }

    /// <summary>The performer wears the suit and stands in its calibrating poses first.</summary>
    public bool SuitPoses { get; init; }
}
