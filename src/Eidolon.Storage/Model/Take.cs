namespace Eidolon.Storage.Model;

/// <summary>One take: its slate and where its samples are. Raw samples are never changed; what was done stands in its Ledger.</summary>
public sealed class Take
{
    public int Id { get; set; }

    public int ShootDayId { get; set; }

    public ShootDay? Day { get; set; }

    /// <summary>Full name, e.g. HL_009_lamp-walk_01.</summary>
    public required string Name { get; set; }

    /// <summary>Set-up: the name without the take number.</summary>
    public required string SetUp { get; set; }

    public int Number { get; set; }

    /// <summary>The performer in it.</summary>
    public required string Performer { get; set; }

    /// <summary>Props, separated by commas; empty for none.</summary>
    public string Props { get; set; } = string.Empty;

    /// <summary>Name of the marker set that is worn; empty for the production's own.</summary>
    public string MarkerSet { get; set; } = string.Empty;

    public string Note { get; set; } = string.Empty;

    public bool Circled { get; set; }

    /// <summary>0 not rated, 1 to 5.</summary>
    public int Rating { get; set; }

    /// <summary>The ring's calibration when it was recorded; null for takes from elsewhere.</summary>
    public int? CalibrationId { get; set; }

    /// <summary>What each device sent, JSON: stream, name, samples, lost, offset in seconds.</summary>
    public string Devices { get; set; } = "[]";

    public double FrameRate { get; set; }

    public int FrameCount { get; set; }

    /// <summary>Names of the raw trajectories, one a line.</summary>
    public string Channels { get; set; } = string.Empty;

    /// <summary>Hash of the raw samples.</summary>
    public string RawHash { get; set; } = string.Empty;

    public TakeState State { get; set; }

    /// <summary>Why a recording is shorter than it was meant to be; empty when it is whole.</summary>
    public string Shortened { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    /// <summary>Six small figures as SVG, or empty before the first solve.</summary>
    public string Postures { get; set; } = string.Empty;

    /// <summary>Open findings at the last look: must fix and look.</summary>
    public int MustFix { get; set; }

    public int Look { get; set; }

    /// <summary>Measures for the day's table, JSON: after its labels and now; empty before the first look.</summary>
    public string Quality { get; set; } = string.Empty;

    public List<LedgerRow> Ledger { get; } = [];

    public List<HandOff> HandOffs { get; } = [];
}
