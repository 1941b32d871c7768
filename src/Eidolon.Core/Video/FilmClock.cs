using Eidolon.Core.Optical;

namespace Eidolon.Core.Video;

/// <summary>Films of one performance on the first one's clock: what all of them see at one moment.</summary>
internal sealed class FilmClock
{
    /// <summary>A tracker's points are off by this on a picture 1920 wide where it is quite sure, pixels; by more where it is less.</summary>
    private const double SureSpread = 2.4,
        SureConfidence = 1.7;

    /// <summary>Points a person put are off by this, pixels.</summary>
    private const double HandSpread = 1.2;

    /// <summary>How far bodies are from cameras, metres: what a place on the body may be off weighs by it.</summary>
    private const double UsualDistance = 5;

    private readonly FilmBody _body;
    private readonly int[][] _points;

    public FilmClock(FilmBody body, IReadOnlyList<FilmTake> films, IReadOnlyList<CameraModel> cameras)
    {
        (_body, Films, Cameras) = (body, [.. films], [.. cameras]);
        Offsets = new double[films.Count];
        Used = [.. films.Select((_, i) => i == 0)];
        _points = [.. films.Select(f => body.Points.Select(p => f.IndexOf(p.Name)).ToArray())];
    }

    public FilmTake[] Films { get; }

    public CameraModel[] Cameras { get; }

    /// <summary>Each film's first frame on the first one's clock, seconds.</summary>
    public double[] Offsets { get; }

    /// <summary>Films whose camera and start are known already.</summary>
    public bool[] Used { get; }

    public double Rate => Films[0].FrameRate;

    public int FrameCount => Films[0].FrameCount;

    /// <summary>What the used films see at a frame of the first one.</summary>
    public List<FilmSight> At(int frame)
    {
        var sights = new List<FilmSight>();
        for (var k = 0; k < Films.Length; k++)
        {
            if (Used[k])
            {
                See(sights, k, frame / Rate, Offsets[k]);
            }
        }

        return sights;
    }

    /// <summary>What one film sees at a moment of the first one's clock, with a start to try.</summary>
    public List<FilmSight> Of(int film, int frame, double offset)
    {
        var sights = new List<FilmSight>();
        See(sights, film, frame / Rate, offset);
        return sights;
    }

    private void See(List<FilmSight> sights, int k, double seconds, double offset)
    {
        var film = Films[k];
        var at = (seconds - offset) * film.FrameRate;
        var (before, share) = ((int)Math.Floor(at + 1e-6), at - Math.Floor(at + 1e-6));
        if (before < 0 || before >= film.FrameCount)
        {
            return;
        }

        var after = share < 1e-3 ? before : before + 1;
        if (after >= film.FrameCount)
        {
            return;
        }

        for (var p = 0; p < _body.Points.Count; p++)
        {
            if (_points[k][p] < 0)
            {
                continue;
            }

            var (a, b) = (film.At(before, _points[k][p]), film.At(after, _points[k][p]));
            if (a.Confidence <= 0 || b.Confidence <= 0)
            {
                continue;
            }

            var confidence = Math.Min(a.Confidence, b.Confidence);
            sights.Add(
                new FilmSight(
                    Cameras[k],
                    p,
                    a.U + ((b.U - a.U) * share),
                    a.V + ((b.V - a.V) * share),
                    Weight(Cameras[k], confidence, _body.Points[p].Spread)
                )
            );
        }
    }

    private static double Weight(CameraModel camera, double confidence, double place)
    {
        if (confidence >= 1)
        {
            return 1 / (HandSpread * HandSpread);
        }

        var pixels = SureSpread * camera.Width / 1920 / Math.Pow(confidence, SureConfidence);
        var own = camera.Focal * place / UsualDistance;
        return 1 / ((pixels * pixels) + (own * own));
    }
}
