using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>How badly a body explains its dots when they carry these names: squared distances in units of a centimetre, twelve for a dot without a name; per frame.</summary>
internal sealed class NamingCost(MarkerTake take, IReadOnlyList<LabelSubject> subjects)
{
    /// <summary>Solves the body in a few frames with the names as they would be.</summary>
    public double Of(List<LabelDecider.Decision> list, int s, int[] frames)
    {
        var performer = subjects[s].Performer;
        var thin = new MarkerTake([.. performer.Markers.Select(m => m.Name)], take.FrameRate, frames.Length);
        var nameless = 0;
        for (var k = 0; k < frames.Length; k++)
        {
            foreach (var d in list)
            {
                if (d.Start <= frames[k] && frames[k] <= d.End)
                {
                    if (d.Subject == s)
                    {
                        thin[k, d.Marker] = take[frames[k], d.Fragment.Column];
                    }
                    else if (d.Subject < 0)
                    {
                        nameless++;
                    }
                }
            }
        }

        MarkerTake solved;
        try
        {
            solved = CarriedMarkers.Of(performer, thin);
        }
        catch (ArgumentException)
        {
            return double.PositiveInfinity;
        }

        var cost = nameless * LabelDecider.Nameless;
        for (var i = 0; i < thin.Positions.Length; i++)
        {
            cost += MarkerTake.Seen(thin.Positions[i]) ? Math.Min(LabelDecider.Farthest, (thin.Positions[i] - solved.Positions[i]).LengthSquared() / (LabelDecider.Usual * LabelDecider.Usual)) : 0;
        }

        return cost / frames.Length;
    }
}
