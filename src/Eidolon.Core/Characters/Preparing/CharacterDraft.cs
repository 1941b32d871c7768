namespace Eidolon.Core.Characters.Preparing;

/// <summary>What a person did to a character since it was brought in or unlocked, in order; the last step is the first to be taken back.</summary>
public sealed record CharacterDraft(IReadOnlyList<DraftStep> Steps)
{
    /// <summary>Steps in one draft at the most: a rig has fewer joints.</summary>
    public const int MostSteps = 500;

    /// <summary>Nothing was done.</summary>
    public static CharacterDraft Empty { get; } = new([]);

    /// <summary>How many times as large it is made.</summary>
    public double Size => Steps.OfType<SizeStep>().Aggregate(1.0, (f, s) => f * s.Factor);

    /// <summary>Strokes over the weights, in order.</summary>
    public IReadOnlyList<WeightStep> Strokes => [.. Steps.OfType<WeightStep>()];

    /// <summary>Names of meshes that are left out.</summary>
    public IReadOnlySet<string> LeftOut
    {
        get
        {
            var names = new HashSet<string>(StringComparer.Ordinal);
            foreach (var step in Steps.OfType<MeshStep>())
            {
                _ = step.On ? names.Remove(step.Mesh) : names.Add(step.Mesh);
            }

            return names;
        }
    }

    /// <summary>Remedies that were taken.</summary>
    public IReadOnlySet<RestRemedy> Remedies =>
        Steps.OfType<RemedyStep>().SelectMany(s => s.And is { } and ? [s.Remedy, and] : new[] { s.Remedy }).ToHashSet();

    /// <exception cref="RefusedException">It has too many steps already.</exception>
    public CharacterDraft With(params DraftStep[] more) =>
        Steps.Count + more.Length > MostSteps
            ? throw new RefusedException($"more than {MostSteps} changes to one character: keep it, then go on")
            : new CharacterDraft([.. Steps, .. more]);

    /// <summary>Without the last step.</summary>
    public CharacterDraft Back() => new([.. Steps.Take(Steps.Count - 1)]);
}
