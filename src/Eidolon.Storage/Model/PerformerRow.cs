namespace Eidolon.Storage.Model;

/// <summary>A performer of the production; calibrated when <see cref="Body"/> holds a measured skeleton.</summary>
public sealed class PerformerRow
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public required string Name { get; set; }

    public float Stature { get; set; }

    /// <summary>Performer JSON after calibration, otherwise empty.</summary>
    public string Body { get; set; } = string.Empty;

    /// <summary>RMS residual of the calibration, millimetres.</summary>
    public double FitMillimetres { get; set; }

    /// <summary>The labelled take that taught the shape.</summary>
    public int? ReferenceTakeId { get; set; }

    /// <summary>Figure as GLB, or empty.</summary>
    public byte[] Figure { get; set; } = [];
}
