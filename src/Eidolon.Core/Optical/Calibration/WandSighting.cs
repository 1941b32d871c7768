namespace Eidolon.Core.Optical.Calibration;

/// <summary>The wand in one picture: pixels of first end, middle and far end.</summary>
internal readonly record struct WandSighting(int Frame, int Camera, float U0, float V0, float U1, float V1, float U2, float V2)
{
    public (float U, float V) Of(int marker) =>
        marker switch
        {
            0 => (U0, V0),
            1 => (U1, V1),
            _ => (U2, V2),
        };
}
