using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Video;

namespace Eidolon.Core.Formats;

/// <summary>Films of one performance as their files come in: one after the other, their cameras with them, after them or not at all.</summary>
public static class ImportedFilms
{
    /// <summary>A lens of which nothing is known sees so wide, degrees.</summary>
    public const double UsualAngle = 60;

    /// <summary>Films of one performance at most.</summary>
    public const int Most = 8;

    private static readonly (int Width, int Height)[] Pictures = [(640, 480), (1280, 720), (1920, 1080), (2560, 1440), (3840, 2160)];

    /// <summary>A film beside those there are, with a camera of the usual angle that is placed when it is solved.</summary>
    /// <exception cref="InvalidInputException">There are as many as can be.</exception>
    public static FilmValue Join(FilmValue? films, FilmTake film, string file)
    {
        if (films?.Films.Count >= Most)
        {
            throw new InvalidInputException(file, "the file", $"{Most} films of one performance are the most");
        }

        var camera = Guess(film, Path.GetFileNameWithoutExtension(file), UsualAngle);
        return new FilmValue([.. films?.Films ?? [], film], [.. films?.Cameras ?? [], camera]);
    }

    /// <summary>The same films with their cameras, in the same order.</summary>
    /// <exception cref="InvalidInputException">There are fewer cameras than films.</exception>
    public static FilmValue WithCameras(FilmValue films, IReadOnlyList<CameraModel> cameras, string file) =>
        cameras.Count < films.Films.Count
            ? throw new InvalidInputException(
                file,
                "cameras",
                $"{films.Films.Count} films need as many cameras, the file has {cameras.Count}"
            )
            : films with
            {
                Cameras = [.. cameras.Take(films.Films.Count)],
            };

    /// <summary>The same with an angle for every lens of which nothing is known, and films that were shot too fast brought to their own rate.</summary>
    /// <param name="lensKnown">The cameras are those of a camera file, placed or not.</param>
    /// <param name="degrees">How wide the lens sees, from the left to the right of the picture.</param>
    /// <param name="speed">4 for a film in slow motion that was shot four times faster than it plays.</param>
    /// <exception cref="RefusedException">An angle or a speed that cannot be.</exception>
    public static FilmValue Corrected(FilmValue films, bool lensKnown, double degrees, double speed)
    {
        if (degrees is not (>= 5 and <= 150) || speed is not (>= 0.1 and <= 40))
        {
            throw new RefusedException("a lens sees 5 to 150 degrees wide, and a film is shot up to 40 times too fast");
        }

        return films with
        {
            Films = [.. films.Films.Select(f => new FilmTake(f.FrameRate * speed, f.Names, f.Values) { Warnings = f.Warnings })],
            Cameras = lensKnown ? films.Cameras : [.. films.Cameras.Zip(films.Films, (c, f) => Guess(f, c.Name, degrees))],
        };
    }

    /// <summary>The smallest usual picture that holds all points.</summary>
    private static CameraModel Guess(FilmTake film, string name, double degrees)
    {
        var (right, low) = (0f, 0f);
        for (var i = 0; i < film.Values.Length; i += 3)
        {
            if (film.Values[i + 2] > 0 && float.IsFinite(film.Values[i] + film.Values[i + 1]))
            {
                (right, low) = (Math.Max(right, film.Values[i]), Math.Max(low, film.Values[i + 1]));
            }
        }

        var (width, height) = Pictures.FirstOrDefault(p => right <= p.Width && low <= p.Height, Pictures[^1]);
        return CameraModel.Nominal(name, width, height, width / 2.0 / Math.Tan(degrees * Math.PI / 360));
    }
}
