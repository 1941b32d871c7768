using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>A performed scene: the truth that the devices then see.</summary>
public sealed class Performance
{
    private Performance(string name, IReadOnlyList<Actor> actors, string note) => (Name, Actors, Note) = (name, actors, note);

    public string Name { get; }

    public IReadOnlyList<Actor> Actors { get; }

    public string Note { get; }

    public int FrameCount => Actors[0].Motion.FrameCount;

    internal static Performance Render(ScenePlan plan, int take, float rate)
    {
        var actors = plan.Cast.Select(cast =>
        {
            var animator = new BodyAnimator(cast.Person, cast.Choreography, rate);
            var motion = animator.Render();
            var plants = new List<Plant>();
            for (var side = 0; side < 2; side++)
            {
                foreach (var fall in animator.Feet[side].Falls)
                {
                    int a = Math.Max(0, (int)MathF.Ceiling(fall.Down * rate)), b = (int)MathF.Min(motion.FrameCount - 1, MathF.Floor(MathF.Min(fall.Up, 1e6f) * rate));
                    if (b > a)
                    {
                        plants.Add(new Plant(side == 0 ? BodyRole.FootL : BodyRole.FootR, a, b));
                    }
                }
            }

            return new Actor(cast.Person, motion, plants, plan.Props.Where(p => plan.Cast[p.Holder] == cast).Select(p => (p.Name, p.Joint)).ToArray(), (cast.Person.Seed * 131) + take);
        }).ToArray();
        return new Performance(plan.Name, actors, plan.Note);
    }

    /// <summary>One performer of the scene.</summary>
    /// <param name="Plants">When each foot truly stood.</param>
    public sealed record Actor(Person Person, Motion Motion, IReadOnlyList<Plant> Plants, IReadOnlyList<(string Name, BodyRole Joint)> Props, int Seed);

    /// <summary>A foot standing, frames inclusive.</summary>
    public readonly record struct Plant(BodyRole Foot, int Start, int End);
}
