using System.Numerics;

namespace Eidolon.StandIns.Acting;

/// <summary>Everything a stand-in performer does in a take, before it becomes joint angles. Seconds, metres, degrees.</summary>
internal sealed class Choreography(float duration)
{
    public float Duration { get; set; } = duration;

    public List<Footfall>[] Feet { get; } =
    [
        [],
        [],
    ];

    public ArmAct[] Arms { get; } = [new(), new()];

    /// <summary>Lowers the hips (Y down) and shifts them (X left, Z ahead) in the heading frame.</summary>
    public Track Hips { get; } = new();

    /// <summary>Degrees: X forward, Y left, Z towards the right side; bend of the hips themselves.</summary>
    public Track HipTurn { get; } = new();

    /// <summary>Degrees over the whole spine: X forward, Y turn left, Z side.</summary>
    public Track Spine { get; } = new();

    /// <summary>Degrees of the head against the chest: X nod, Y turn left, Z side.</summary>
    public Track Head { get; } = new();

    /// <summary>A lifted foot's ankle against its standing place: X left, Y up, Z ahead; used between footfalls that share a place.</summary>
    public Track[] Lift { get; } = [new(), new()];

    /// <summary>Degrees of a lifted foot: X toes down, Y turn, Z roll.</summary>
    public Track[] FootTurn { get; } = [new(), new()];

    /// <summary>When a foot that is lifted for its ankle stands on its toes all the same, as of somebody kneeling; from and to, seconds.</summary>
    public List<(float From, float To)>[] OnToes { get; } =
    [
        [],
        [],
    ];

    /// <summary>Times of flight (both feet up) with take-off and landing: hips follow gravity.</summary>
    public List<(float TakeOff, float Landing)> Flights { get; } = [];

    /// <summary>What the fingers of both hands do; null where nobody records them.</summary>
    public HandAct[]? Hands { get; init; }

    /// <summary>How much everyday sway and breath there is.</summary>
    public float Liveliness { get; set; } = 1;
}
