using System.Numerics;

namespace Eidolon.StandIns.Acting;

/// <summary>What one arm does: a direction of the upper arm in the chest's frame, bends, and a hand goal in the world with its weight.</summary>
internal sealed class ArmAct
{
    /// <summary>Direction of the upper arm in the chest's frame (not unit); for a left arm, mirrored for the right.</summary>
    public Track Direction { get; init; } = new(new Vector3(0.18f, -1, 0.02f));

    /// <summary>Degrees: X elbow bend, Y forearm turn, Z upper-arm turn.</summary>
    public Track Bend { get; init; } = new(new Vector3(14, 0, 0));

    /// <summary>Degrees: X wrist bend, Y wrist sideways, Z shoulder lift.</summary>
    public Track Wrist { get; init; } = new();

    /// <summary>World place for the wrist, metres.</summary>
    public Track Goal { get; init; } = new();

    /// <summary>0 the arm moves freely, 1 the hand is at its goal.</summary>
    public Track GoalWeight { get; init; } = new();

    /// <summary>Where the elbow points when the hand follows a goal, in the pelvis' heading frame, for a left arm.</summary>
    public Vector3 ElbowPole { get; set; } = new(0.55f, -0.8f, -0.35f);

    /// <summary>How much the arm swings with the opposite foot, 1 = usual.</summary>
    public float Swing { get; set; } = 1;

    /// <summary>When set, gives the wrist's world place itself and wins over <see cref="Goal"/>.</summary>
    public Func<float, Vector3>? GoalAt { get; set; }
}
