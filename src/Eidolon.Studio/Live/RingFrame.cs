namespace Eidolon.Studio.Live;

/// <summary>One frame of all cameras.</summary>
/// <param name="Number">The ring's own frame count.</param>
/// <param name="Clock">The ring's own clock, seconds.</param>
/// <param name="At">Studio clock at which the last packet of it came, seconds.</param>
/// <param name="Pictures">Centroids of each camera; null where nothing arrived.</param>
public sealed record RingFrame(uint Number, double Clock, double At, (float[] U, float[] V)?[] Pictures);
