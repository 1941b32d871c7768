using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.StandIns.People;

/// <summary>The props of Harbour Lights and where their markers are, metres in the prop's own frame.</summary>
public static class HarbourProps
{
    /// <summary>0.46 × 0.36 × 0.52 m, two handles, five markers on its lid; the pivot is its middle.</summary>
    public static RigidBody Crate { get; } =
        new(
            "Crate",
            [
                new(-0.21f, 0.19f, -0.22f),
                new(0.20f, 0.19f, -0.23f),
                new(0.21f, 0.19f, 0.22f),
                new(-0.17f, 0.19f, 0.23f),
                new(0.03f, 0.19f, 0.06f),
            ]
        );

    /// <summary>A pole of 1.6 m, held at the pivot; the lantern hangs at its upper end.</summary>
    public static RigidBody LanternPole { get; } =
        new("Lantern pole", [new(0.02f, -0.52f, 0), new(-0.02f, 0.35f, 0.01f), new(0.02f, 0.82f, -0.01f), new(0.11f, 0.78f, 0.02f)]);

    /// <summary>An iron hook of 0.4 m on the rope's end.</summary>
    public static RigidBody BollardHook { get; } =
        new("Bollard hook", [new(0, 0.16f, 0), new(0.06f, -0.04f, 0.01f), new(-0.05f, -0.12f, 0.02f), new(0.02f, -0.2f, -0.03f)]);

    public static IReadOnlyList<RigidBody> All { get; } = [Crate, LanternPole, BollardHook];

    public static RigidBody? Find(string name) => All.FirstOrDefault(p => p.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
}
