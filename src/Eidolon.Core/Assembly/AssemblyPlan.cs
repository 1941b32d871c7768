namespace Eidolon.Core.Assembly;

/// <summary>What an assembly plan's file says; clips by the names of their files.</summary>
/// <param name="FrameRate">Of the result; null for the first clip's.</param>
/// <param name="InPlace">Without the way over the floor.</param>
/// <param name="Loop">As a loop's parameters; null where the clips are played once.</param>
/// <param name="Layers">Each as a layer's parameters.</param>
public sealed record AssemblyPlan(
    double? FrameRate,
    bool InPlace,
    IReadOnlyList<PlanClip> Clips,
    System.Text.Json.Nodes.JsonObject? Loop,
    IReadOnlyList<System.Text.Json.Nodes.JsonObject> Layers
);

/// <summary>A clip of a plan.</summary>
/// <param name="File">As the plan names it.</param>
/// <param name="Start">First frame of the file that is used.</param>
/// <param name="End">The frame after the last one that is used; null for all.</param>
public sealed record PlanClip(string File, int Start, int? End, ClipPlay Play);
