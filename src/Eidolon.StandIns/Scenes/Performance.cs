using System.Numerics;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>A performed scene: the truth that the devices then see.</summary>
public sealed class Performance
{
    /// <summary>How well a performer stands in a calibrating pose, degrees a bone at most.</summary>
    private const float Sloppy = 1.5f;

    private Performance(
        string name,
        float seconds,
        IReadOnlyList<Actor> actors,
        IReadOnlyList<Prop> props,
        IReadOnlyList<SetPiece> set,
        string note
    ) => (Name, Seconds, Actors, Props, SetPieces, Note) = (name, seconds, actors, props, set, note);

    public string Name { get; }

    /// <summary>How long it lasts, the same at every rate.</summary>
    public float Seconds { get; }

    public IReadOnlyList<Actor> Actors { get; }

    /// <summary>The props with their way through the scene.</summary>
    public IReadOnlyList<Prop> Props { get; }

    /// <summary>What stands on the stage and is no prop.</summary>
    public IReadOnlyList<SetPiece> SetPieces { get; }

    public string Note { get; }

    /// <summary>What the performer's face does; null where nobody records it.</summary>
    public FaceAct? Face { get; private init; }

    public int FrameCount => Actors[0].Motion.FrameCount;

    internal static Performance Render(ScenePlan plan, int take, float rate)
    {
        var actors = plan
            .Cast.Select(cast =>
            {
                var animator = new BodyAnimator(cast.Person, cast.Choreography, rate);
                var motion = Fingers(cast, animator.Render());
                var before = plan.SuitPoses ? (int)Math.Round(CalibratingPoses.Seconds * rate) : 0;
                motion = before > 0 ? CalibratingPoses.Before(motion, (cast.Person.Seed * 37) + take, Sloppy) : motion;
                var plants = new List<Plant>();
                var world = ForwardKinematics.WorldPositions(motion);
                for (var side = 0; side < 2; side++)
                {
                    foreach (var (down, up) in animator.Feet[side].Falls.Select(f => (f.Down, f.Up)).Concat(cast.Choreography.OnToes[side]))
                    {
                        // Who stands as the scene begins has stood there through the poses before it.
                        int a = down <= 0 ? 0 : before + (int)MathF.Ceiling(down * rate),
                            b = (int)MathF.Min(motion.FrameCount - 1, before + MathF.Floor(MathF.Min(up, 1e6f) * rate));
                        if (b > a)
                        {
                            plants.Add(Standing(motion, world, side == 0 ? BodyRole.FootL : BodyRole.FootR, a, b));
                        }
                    }
                }

                return new Actor(cast.Person, motion, plants, (cast.Person.Seed * 131) + take);
            })
            .ToArray();
        return new Performance(
            plan.Name,
            plan.Duration + (plan.SuitPoses ? (float)CalibratingPoses.Seconds : 0),
            actors,
            [.. plan.Props.Select(p => Carry(p, actors[p.Holder].Motion, rate))],
            plan.SetPieces,
            plan.Note
        )
        {
            Face = plan.Face,
        };
    }

    /// <summary>The body with the fingers of its person, where the scene says what they do.</summary>
    private static Motion Fingers(SceneCast cast, Motion body)
    {
        if (cast.Choreography.Hands is not { } hands)
        {
            return body;
        }

        var poses = new HandPoses(body.FrameCount);
        var follows = PersonHands.Follows(cast.Person);
        for (var f = 0; f < body.FrameCount; f++)
        {
            for (var i = 0; i < HandPoses.Fingers; i++)
            {
                var (side, finger) = (i / HandShape.FingerCount, i % HandShape.FingerCount);
                poses.Poses[HandPoses.At(f, side, finger)] = hands[side].At(f / (float)body.FrameRate, finger, finger == 0 ? 1 : follows);
            }
        }

        return HandSkeleton.With(body, PersonHands.Of(cast.Person, 'L'), PersonHands.Of(cast.Person, 'R'), poses);
    }

    /// <summary>A foot that sets down or leaves very slowly stands as long as it is within a millimetre of where it stands.</summary>
    private static Plant Standing(Motion motion, Vector3[] world, BodyRole foot, int start, int end)
    {
        const float still = 0.001f;
        var s = motion.Skeleton;
        Vector3 At(int f, int joint) => world[(f * s.Count) + joint];
        int ankle = s.IndexOf(foot),
            toes = s.IndexOf(foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR);
        var (a, b) = (start, end);
        while (a > 0 && (At(a - 1, ankle) - At(start, ankle)).Length() < still)
        {
            a--;
        }

        while (b + 1 < motion.FrameCount && (At(b + 1, toes) - At(end, toes)).Length() < still)
        {
            b++;
        }

        return new Plant(foot, a, b);
    }

    private static Prop Carry(SceneProp planned, Motion holder, float rate)
    {
        var body = HarbourProps.Find(planned.Name) ?? throw new ArgumentException($"there is no prop '{planned.Name}'");
        var (places, turns) = (new Vector3[holder.FrameCount], new Quaternion[holder.FrameCount]);
        var (rotations, positions) = (new Quaternion[holder.Skeleton.Count], new Vector3[holder.Skeleton.Count]);
        var joint = holder.Skeleton.IndexOf(planned.Joint);
        for (var f = 0; f < places.Length; f++)
        {
            if (planned.Path is { } path)
            {
                (places[f], turns[f]) = path(f / rate);
                continue;
            }

            var (at, turn) = planned.InHand ?? (Vector3.Zero, Quaternion.Identity);
            ForwardKinematics.World(holder, f, rotations, positions);
            (places[f], turns[f]) = (positions[joint] + Vector3.Transform(at, rotations[joint]), rotations[joint] * turn);
        }

        return new Prop(body, places, turns);
    }

    /// <summary>One performer of the scene.</summary>
    /// <param name="Plants">When each foot truly stood.</param>
    public sealed record Actor(Person Person, Motion Motion, IReadOnlyList<Plant> Plants, int Seed);

    /// <summary>One prop of the scene.</summary>
    /// <param name="Places">Of its pivot, a frame each, metres.</param>
    public sealed record Prop(RigidBody Body, IReadOnlyList<Vector3> Places, IReadOnlyList<Quaternion> Turns);

    /// <summary>Something that stands on the stage.</summary>
    /// <param name="Kind">gangplank, steps, bollard, net, mooring-line, lamp-post.</param>
    /// <param name="X">On the floor, metres; so is Z.</param>
    /// <param name="Heading">About the vertical, degrees; 0 faces +Z.</param>
    public sealed record SetPiece(string Kind, double X, double Z, double Heading = 0);

    /// <summary>A foot standing, frames inclusive.</summary>
    public readonly record struct Plant(BodyRole Foot, int Start, int End);
}
