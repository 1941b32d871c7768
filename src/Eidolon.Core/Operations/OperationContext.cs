namespace Eidolon.Core.Operations;

/// <summary>What every run of an operation gets besides its data and parameters.</summary>
/// <param name="Resources">Only those the operation says it reads.</param>
/// <param name="Scope">Whose node it runs in.</param>
public sealed record OperationContext(
    IResources Resources,
    NodeScope Scope = default,
    IProgress<double>? Progress = null,
    CancellationToken Cancel = default
);

/// <summary>Whose node it is.</summary>
/// <param name="Subject">The performer, prop or, in a scene, character; 0 for the markers of a take.</param>
/// <param name="Target">The character that a cast drives; 0 elsewhere.</param>
public readonly record struct NodeScope(int Subject, int Target = 0);
