namespace Eidolon.Storage.Model;

/// <summary>What the samples of a stream are.</summary>
public enum StreamKind
{
    /// <summary>2D of every camera (see CentroidCodec).</summary>
    Centroids = 1,

    /// <summary>Points or markers: x, y, z a channel, float32, metres.</summary>
    Markers = 2,

    /// <summary>A skeleton's motion that was brought in (see ValueCodec).</summary>
    Motion = 3,

    /// <summary>Places of a prop: x, y, z, then the turn x, y, z, w; float32.</summary>
    Places = 4,

    /// <summary>Packets of a device as they came, with their time on the take's clock: suit, witness camera, face.</summary>
    Packets = 5,

    /// <summary>Samples of a suit's sensors: 17 × 9 values a frame, float32, NaN where one was lost.</summary>
    Suit = 6,

    /// <summary>What a tracker saw in a film: u, v, confidence of every point, float32; its camera beside it.</summary>
    Film = 7,

    /// <summary>The picture of such a film, as strokes that draw it: x, y, x, y, width, float32, the farthest first.</summary>
    FilmPicture = 8,

    /// <summary>What a pair of gloves measured: 12 × 4 values a frame, float32, NaN where one was lost.</summary>
    Gloves = 9,

    /// <summary>Weights of a face and how sure its tracker was, float32; the names beside them.</summary>
    Face = 10,
}
