namespace Eidolon.Storage.Model;

/// <summary>A subject as it was measured or brought in once. Versions are never changed; a new measurement is a new version.</summary>
public sealed class SubjectVersion
{
    public int Id { get; set; }

    public int SubjectId { get; set; }

    /// <summary>1, 2, 3 …</summary>
    public int Number { get; set; }

    /// <summary>Hash of everything that results may depend on, 32 hexadecimal digits.</summary>
    public required string Content { get; set; }

    /// <summary>Performer JSON (empty before it is measured), rigid body JSON of a prop, role map of a character.</summary>
    public string Body { get; set; } = string.Empty;

    /// <summary>Poses a performer was seen in, from which labels begin (see PoseListJson); empty where there are none.</summary>
    public string Poses { get; set; } = string.Empty;

    /// <summary>GLB of the figure or model; null where there is none.</summary>
    public int? BlobId { get; set; }

    /// <summary>Stature or height, metres; 0 for a prop.</summary>
    public double Height { get; set; }

    /// <summary>RMS residual of a performer's measurement, millimetres.</summary>
    public double FitMillimetres { get; set; }

    /// <summary>The take a performer was measured from.</summary>
    public int? ReferenceTakeId { get; set; }

    /// <summary>A character's rest check: verdict and reasons.</summary>
    public string Verdict { get; set; } = string.Empty;

    public string Reasons { get; set; } = string.Empty;

    /// <summary>What a prop drives: empty, "model" or "camera".</summary>
    public string Tie { get; set; } = string.Empty;

    /// <summary>Why there is this version, for people.</summary>
    public string Why { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    /// <summary>Can results be made with it? A performer must be measured first.</summary>
    public bool Measured => Body.Length > 0;
}
