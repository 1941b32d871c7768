using System.Collections.Frozen;

namespace Eidolon.Core.Operations;

/// <summary>The one list of operations: the Ledger, the command line and Recipes all look here.</summary>
public static class OperationRegistry
{
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
            TrimOperation.Trim,
            ContactOperation.Contacts,
            MotionOperations.Solve,
            MotionOperations.Retarget,
            MotionOperations.Assemble,
            MotionOperations.Layer,
        }.ToFrozenDictionary(o => o.Name);

    public static Operation Find(string name) =>
        All.TryGetValue(name, out var o) ? o : throw new ArgumentException($"there is no operation '{name}'");
}
