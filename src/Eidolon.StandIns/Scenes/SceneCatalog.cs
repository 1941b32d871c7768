using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>The scenes that can be performed, by name.</summary>
public static class SceneCatalog
{
    private static readonly Dictionary<string, (int Slate, string Who, Func<Person, int, ScenePlan> Plan)> Scenes = new(
        StringComparer.OrdinalIgnoreCase
    )
    {
        ["rom"] = (1, "Ines", RomScene.Plan),
        ["lamp-walk"] = (9, "Ines", LampWalkScene.Plan),
        ["haul-rope"] = (14, "Tobi", HaulRopeScene.Plan),
        ["crate-carry"] = (21, "Ines", CrateCarryScene.Plan),
        ["deck-crouch"] = (27, "Ines", DeckCrouchScene.Plan),
        ["gangplank-hop"] = (30, "Tobi", GangplankHopScene.Plan),
        ["cam-mend-net"] = (44, "Ines", MendNetScene.Plan),
        ["signal-wave"] = (33, "Ines", SignalWaveScene.Plan),
        ["quay-run"] = (51, "Tobi", RunScenes.Straight),
        ["corner-run"] = (52, "Tobi", RunScenes.Corner),
        ["steps-down"] = (53, "Tobi", StepsDownScene.Plan),
        ["long-watch"] = (54, "Tobi", WatchScenes.Stand),
        ["quay-round"] = (55, "Tobi", WatchScenes.Round),
        ["suit-patrol"] = (40, "Ines", (person, seed) => SuitPatrolScene.Plan(person, seed)),
    };

    public static IReadOnlyCollection<string> Names => Scenes.Keys;

    /// <summary>The slate number of a scene in the production.</summary>
    public static int Slate(string scene) => Scenes[scene].Slate;

    /// <summary>Who usually performs it.</summary>
    public static string DefaultPerformer(string scene) => Scenes[scene].Who;

    /// <summary>Performs a scene.</summary>
    /// <param name="scene">One of <see cref="Names"/>.</param>
    /// <param name="take">Take number: each is performed a little differently.</param>
    public static Performance Perform(string scene, Person person, int take, double rate = 120)
    {
        if (!Scenes.TryGetValue(scene, out var entry))
        {
            throw new ArgumentException($"there is no scenario '{scene}' (there are {string.Join(", ", Names)})");
        }

        return Performance.Render(entry.Plan(person, (person.Seed * 1009) + (take * 7919)), take, (float)rate);
    }

    /// <summary>The patrol with more rounds, and with a platform that is climbed and left by two steps on one side of the block.</summary>
    public static Performance Patrol(Person person, int seed, int rounds, bool steps, double rate) =>
        Performance.Render(SuitPatrolScene.Plan(person, seed, rounds, steps), seed, (float)rate);
}
