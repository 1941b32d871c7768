namespace Eidolon.Storage.Model;

/// <summary>One take: its slate and where its samples are. Raw samples are never changed; what was done stands in its Ledger.</summary>
public sealed class Take : IPutAside
{
    public int Id { get; set; }

    public int ProductionId { get; set; }

    public int ShootDayId { get; set; }

    public ShootDay? Day { get; set; }

    /// <summary>Full name, e.g. HL_009_lamp-walk_01.</summary>
    public required string Name { get; set; }

    /// <summary>Set-up: the name without the take number.</summary>
    public required string SetUp { get; set; }

    public int Number { get; set; }

    /// <summary>The marker set that is worn; null for the production's own.</summary>
    public int? MarkerSetId { get; set; }

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

    /// <summary>Counted on with every change of its Ledger.</summary>
    public int Revision { get; set; }

    /// <inheritdoc/>
    public DateTime? AsideUtc { get; set; }

    public TakeState State { get; set; }

    /// <summary>Why a recording is shorter than it was meant to be; empty when it is whole.</summary>
    public string Shortened { get; set; } = string.Empty;

    public DateTime CreatedUtc { get; set; }

    /// <summary>Six small figures as SVG, or empty before the first solve.</summary>
    public string Postures { get; set; } = string.Empty;

    /// <summary>Open findings at the last look: must fix and look.</summary>
    public int MustFix { get; set; }

    public int Look { get; set; }

    /// <summary>Steps it is through at the last look, a bit each, Record first.</summary>
    public int Through { get; set; }

    /// <summary>Seconds to bring it up to date at the last look; 0 when it is.</summary>
    public double StaleSeconds { get; set; }

    /// <summary>Why an entry cannot run at the last look; empty when all can.</summary>
    public string Trouble { get; set; } = string.Empty;

    /// <summary>Measures for the day's table, JSON: after its labels and now; empty before the first look.</summary>
    public string Quality { get; set; } = string.Empty;

    /// <summary>Who and what took part, in the order of the slate.</summary>
    public List<TakePart> Parts { get; } = [];

    public List<SampleStream> Streams { get; } = [];

    public List<NodeRow> Nodes { get; } = [];

    public List<SetPiece> SetPieces { get; } = [];

    /// <summary>Performers of the take, in the order of the slate; parts and subjects must be loaded.</summary>
    public IEnumerable<TakePart> Performers => Of(SubjectKind.Performer);

    public IEnumerable<TakePart> Props => Of(SubjectKind.Prop);

    /// <summary>"Ines, Tobi, crate": for people only.</summary>
    public string Who =>
        string.Join(", ", Performers.Select(p => p.Subject!.Name).Concat(Props.Select(p => p.Subject!.Name.ToLowerInvariant())));

    /// <summary>"Ines and Tobi": for people only.</summary>
    public string PerformerNames => string.Join(" and ", Performers.Select(p => p.Subject!.Name));

    private IEnumerable<TakePart> Of(SubjectKind kind) => Parts.Where(p => p.Subject?.Kind == kind).OrderBy(p => p.Position);
}
