using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Live;

/// <summary>
/// The live stage skips frames where the machine cannot keep up, the raw pictures do not: what it missed is made from them, as an entry of the
/// take's Ledger like any other.
/// </summary>
internal static class MissedPoints
{
    /// <summary>Up to this share of the frames the gaps are filled like any other.</summary>
    private const double Share = .01;

    /// <summary>Queues the making anew of a recording that is kept, where it is worth it.</summary>
    /// <returns>Words for the person; empty where nothing is to be said.</returns>
    public static async Task<string> Remade(JobQueue jobs, Recording r, Faults faults)
    {
        var (missed, frames) = (r.Streams.Missed, r.Streams.Written);
        if (missed <= frames * Share)
        {
            return string.Empty;
        }

        try
        {
            await jobs.Operation(LedgerOwner.Take(r.TakeId), r.Name, MarkerOperations.Reconstruct.Name, [], null, null);
            return $"the live stage missed {100.0 * missed / frames:0} % of the frames: {r.Name}'s markers are made anew from the pictures";
        }
        catch (Exception e)
        {
            // The take is kept; Reconstruct can be asked for on its page.
            faults.Note("the recorder", e);
            return string.Empty;
        }
    }
}
