using Eidolon.Core.Markers;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A trajectory without a name: how long it is seen, from when on, and where over the floor it begins, metres.</summary>
public sealed record Scrap(string Name, int Frames, int Start, float X, float Z)
{
    public static Scrap Of(MarkerTake take, int marker)
    {
        var start = 0;
        while (start < take.FrameCount - 1 && !MarkerTake.Seen(take[start, marker]))
        {
            start++;
        }

        var place = take[start, marker];
        return new Scrap(take.Names[marker], take.VisibleFrames(marker), start, place.X, place.Z);
    }
}
