using System.Collections.Frozen;
using System.Diagnostics.CodeAnalysis;

namespace Eidolon.Core.Operations;

/// <summary>
/// The one list of operations: the Ledger, the command line and Recipes all look here. A new operation appears everywhere once it stands in it.
/// </summary>
public static class OperationRegistry
{
    /// <summary>Every operation by its name: the only list of them.</summary>
    public static FrozenDictionary<string, Operation> All { get; } =
        new[]
        {
            MarkerOperations.Reconstruct,
            LabelOperations.Label,
            LabelOperations.SetLabel,
            LabelOperations.Exchange,
            LabelOperations.Unlabel,
            LabelOperations.Split,
            LabelOperations.Tidy,
            LabelOperations.Join,
            LabelOperations.Discard,
            MarkerOperations.Fill,
            MarkerOperations.Despike,
            MarkerOperations.Smooth,
            MarkerOperations.Hide,
            TrimOperations.Trim,
            TrimOperations.TrimMotion,
            SolveOperations.Solve,
            SuitOperation.Solve,
            FilmOperation.Points,
            FilmOperation.Solve,
            SuitOperation.ClosePath,
            SuitOperation.StraightenPath,
            HandOperations.Fingers,
            HandOperations.Face,
            SolveOperations.FindProp,
            ContactOperation.Contacts,
            RetargetOperation.Retarget,
            RetargetOperation.PushOut,
            RetargetOperation.Together,
            RetargetOperation.Grip,
            AttachOperation.Attach,
            SceneOperations.Clips,
            SceneOperations.Loop,
            SceneOperations.Layer,
        }.ToFrozenDictionary(o => o.Name);

    /// <exception cref="RefusedException">There is none of that name.</exception>
    public static Operation Find(string name) =>
        All.TryGetValue(name, out var o) ? o : throw new RefusedException($"there is no operation '{name}'");

    /// <summary>An operation by its name.</summary>
    public static bool TryFind(string name, [NotNullWhen(true)] out Operation? operation) => All.TryGetValue(name, out operation);

    /// <summary>What an operation is called for people; its name when it is not known (any more).</summary>
    public static string TitleOf(string name) => All.TryGetValue(name, out var o) ? o.Title : name;
}
