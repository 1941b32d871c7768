using Eidolon.Core.Cleaning;
using Eidolon.Core.Optical;

namespace Eidolon.Core.Video;

/// <summary>What solving films had to say.</summary>
public sealed record FilmReport
{
    /// <summary>Each film's first frame on the first one's clock, seconds.</summary>
    public required IReadOnlyList<double> OffsetsSeconds { get; init; }

    /// <summary>Where each film was shot from; those that were not known are found.</summary>
    public required IReadOnlyList<CameraModel> Cameras { get; init; }

    /// <summary>Median distance of all points that are seen from where the body has them, pixels, per film.</summary>
    public required IReadOnlyList<double> ReprojectionPixels { get; init; }

    /// <summary>Points farthest from where the body has them, the worst first.</summary>
    public required IReadOnlyList<FilmMiss> Worst { get; init; }

    /// <summary>Where legs were exchanged and put back, in frames of each film itself.</summary>
    public required IReadOnlyList<ExchangedLegs> ExchangedLegs { get; init; }

    /// <summary>What stood when.</summary>
    public required IReadOnlyList<Contact> Contacts { get; init; }

    /// <summary>What cannot be trusted, in words.</summary>
    public required IReadOnlyList<string> Warnings { get; init; }
}
