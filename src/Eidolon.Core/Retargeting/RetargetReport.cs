using Eidolon.Core.Clipping;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>What a retarget did.</summary>
/// <param name="Scale">Character's leg length over the performer's.</param>
/// <param name="HoldErrors">Largest distance from the goal of each held hand and foot, millimetres.</param>
/// <param name="Drift">Distance of each part that can be held from the source's scaled place, a value a frame, millimetres.</param>
/// <param name="Bends">Elbows and knees that what is held bends too much.</param>
/// <param name="Fastest">Whether anything turns faster than the performer ever did.</param>
public sealed record RetargetReport(
    double Scale,
    IReadOnlyList<HeldContact> Contacts,
    IReadOnlyDictionary<BodyRole, double> HoldErrors,
    IReadOnlyDictionary<BodyRole, float[]> Drift,
    IReadOnlyList<BendRange> Bends,
    FastestTurn Fastest,
    IReadOnlyList<ClippingFrame> Clipping,
    IReadOnlyList<string> Warnings
)
{
    /// <summary>How much higher than at rest the performer stands, metres: 0 where the motion was taken over as it is.</summary>
    public float Ground { get; init; }

    /// <summary>What a person should look at: see <see cref="RetargetFindings"/>.</summary>
    public IReadOnlyList<Finding> Findings { get; init; } = [];
}
