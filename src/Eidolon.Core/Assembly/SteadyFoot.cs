using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Assembly;

/// <summary>A foot through an overlap, ankle and turn, kept from sliding while its heel or its toes stand: noise of a recording is left out with it.</summary>
internal sealed class SteadyFoot
{
    /// <summary>A foot that is lifted more than this does not stand, metres.</summary>
    private const float Lifted = 0.003f;

    /// <summary>Below this share, and above the rest, a foot goes the way of one clip.</summary>
    private const float OneWay = 0.02f;

    private readonly Vector3[] _ankle;
    private readonly Quaternion[] _turn;

    private SteadyFoot(Vector3[] ankle, Quaternion[] turn) => (_ankle, _turn) = (ankle, turn);

    /// <summary>Where it is at one end of the overlap in the clip that goes on there.</summary>
    /// <param name="Ankle">In the world.</param>
    /// <param name="Toes">In the world; of a foot without toes, the ankle.</param>
    /// <param name="HeelStands">And toes: whether they stand there.</param>
    public readonly record struct End(Vector3 Ankle, Vector3 Toes, bool HeelStands, bool ToesStand);

    /// <summary>One that goes as it is blended.</summary>
    public static SteadyFoot As(Vector3[] ankle, Quaternion[] turn) => new(ankle, turn);

    public Vector3 Ankle(int frame) => _ankle[frame];

    public Quaternion Turn(int frame) => _turn[frame];

    /// <param name="path">How far it has gone over.</param>
    /// <param name="ankle">Way of the ankle as it is blended, a frame each.</param>
    /// <param name="turn">Of the foot, in the world.</param>
    /// <param name="toes">From ankle to toes in the foot's own axes; zero for a foot without.</param>
    /// <param name="heelStands">In the earlier and the later clip, a frame each, and in what became of them.</param>
    /// <param name="toesStand">The same of its toes.</param>
    /// <param name="before">At the frame before; null where there is none.</param>
    /// <param name="after">At the frame after.</param>
    /// <param name="rest">How long an end takes to come to rest, frames.</param>
    /// <param name="rate">Frames a second.</param>
    public static SteadyFoot Of(
        FootPath path,
        Vector3[] ankle,
        Quaternion[] turn,
        Vector3 toes,
        (bool[] A, bool[] B, bool[] Seen) heelStands,
        (bool[] A, bool[] B, bool[] Seen) toesStand,
        End? before,
        End? after,
        double rest,
        double rate
    )
    {
        var n = ankle.Length;
        var way = new Vector3[n];
        for (var k = 0; k < n; k++)
        {
            way[k] = ankle[k] + Vector3.Transform(toes, turn[k]);
        }

        bool[] Stands((bool[] A, bool[] B, bool[] Seen) of) => [.. Enumerable.Range(0, n).Select(k => Still(path, of, k))];
        var (heel, tip) = (Stands(heelStands), Stands(toesStand));
        var (still, ahead) = ((Vector3[])ankle.Clone(), (Vector3[])way.Clone());
        Keep(still, heel, before is { HeelStands: true } b ? b.Ankle : null, after is { HeelStands: true } a ? a.Ankle : null, rest, rate);
        Keep(ahead, tip, before is { ToesStand: true } c ? c.Toes : null, after is { ToesStand: true } d ? d.Toes : null, rest, rate);
        var (turned, leads) = (new Quaternion[n], Leads(heel, tip));
        for (var k = 0; k < n; k++)
        {
            // The foot turns with its two ends. It is as long as it is: where both would not do, one of them gives way.
            var at = way[k] - ankle[k];
            var turns = toes.LengthSquared() > 1e-8f ? Rotations.Between(at, ahead[k] - still[k]) : Quaternion.Identity;
            turned[k] = Quaternion.Normalize(turns * turn[k]);
            still[k] = Vector3.Lerp(still[k], ahead[k] - Vector3.Transform(at, turns), leads[k]);
        }

        return new SteadyFoot(still, turned);
    }

    /// <summary>Which end keeps its place, frame by frame: 0 the heel, 1 the toes. Where both or neither stand it goes over from one to the other.</summary>
    private static float[] Leads(bool[] heel, bool[] tip)
    {
        var leads = new float[heel.Length];
        var last = -1;
        for (var k = 0; k < heel.Length; k++)
        {
            if (heel[k] == tip[k])
            {
                continue;
            }

            leads[k] = tip[k] ? 1 : 0;
            for (var i = last + 1; i < k; i++)
            {
                leads[i] = last < 0 ? leads[k] : float.Lerp(leads[last], leads[k], (i - last) / (float)(k - last));
            }

            last = k;
        }

        leads.AsSpan(last + 1).Fill(last < 0 ? 0 : leads[last]);
        return leads;
    }

    /// <summary>It stands in the clip whose way it goes, in both, or in what became of them; not while it is lifted for a step.</summary>
    private static bool Still(FootPath path, (bool[] A, bool[] B, bool[] Seen) stands, int k)
    {
        var share = path.Share(k);
        return path.Lift(k) < Lifted
            && (stands.Seen[k] || (stands.A[k] && stands.B[k]) || (share < OneWay && stands.A[k]) || (share > 1 - OneWay && stands.B[k]));
    }

    /// <summary>Over the floor: heights stay.</summary>
    private static void Keep(Vector3[] way, bool[] stands, Vector3? before, Vector3? after, double rest, double rate)
    {
        float[] x = [.. way.Select(p => p.X)],
            z = [.. way.Select(p => p.Z)];
        SteadyWay.Keep(x, stands, before?.X, after?.X, rest, rate);
        SteadyWay.Keep(z, stands, before?.Z, after?.Z, rest, rate);
        for (var k = 0; k < way.Length; k++)
        {
            way[k] = new Vector3(x[k], way[k].Y, z[k]);
        }
    }
}
