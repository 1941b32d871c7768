using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages;

/// <summary>Record: slate, live view, rack, record and stop.</summary>
public sealed class RecordModel(RecordDesk desk, Slates slates, DeviceRack rack, LiveStage stage, IStandIns standIns) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? From { get; set; }

    public ShootDay? Day { get; private set; }

    public Take? Template { get; private set; }

    public int Number { get; private set; } = 1;

    public string SetUp { get; private set; } = "TAKE_001";

    public string Scene { get; private set; } = string.Empty;

    public IReadOnlyList<Subject> Performers { get; private set; } = [];

    /// <summary>Ids of the performers and props that are chosen to begin with.</summary>
    public IReadOnlyList<int> Chosen { get; private set; } = [];

    public IReadOnlyList<Subject> Props { get; private set; } = [];

    /// <summary>Characters that a performer may drive live.</summary>
    public IReadOnlyList<Subject> Characters { get; private set; } = [];

    /// <summary>Whom a performer drives at this moment; 0 for nobody.</summary>
    public int PlayedBy(int performer) => stage.Played.FirstOrDefault(p => p.Performer == performer).Character;

    public IReadOnlyList<MarkerSetRow> Sets { get; private set; } = [];

    /// <summary>The set the next take is worn with: that of the template, or of the last take.</summary>
    public int? MarkerSet { get; private set; }

    public IReadOnlyList<Take> JustKept { get; private set; } = [];

    /// <summary>Scenes of the stand-ins; empty where there are none.</summary>
    public IReadOnlyList<string> Scenes => standIns.Scenes;

    public IReadOnlyList<UdpDeviceSource> Devices => rack.Devices;

    public BodyPart Part => stage.Part;

    public double Smoothing => stage.SmoothingMilliseconds;

    public bool Plays(string stream) => standIns.Running.Contains(stream);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (await desk.Open(From, cancel) is not { } begin)
        {
            return RedirectToPage("/Index");
        }

        (Day, Template, var shelf, var setUp, JustKept, Sets) = begin;
        Performers = [.. shelf.Where(s => s.Kind == SubjectKind.Performer)];
        Props = [.. shelf.Where(s => s.Kind == SubjectKind.Prop)];
        Characters = [.. shelf.Where(s => s.Kind == SubjectKind.Character && s.Version > 0)];
        SetUp = setUp ?? SetUp;
        Number = await desk.NextNumber(begin.Day.ProductionId, SetUp, cancel);
        Scene = Scenes.FirstOrDefault(n => SetUp.EndsWith(n, StringComparison.Ordinal)) ?? (Scenes.Count > 0 ? Scenes[0] : string.Empty);
        var usual = standIns.DefaultPerformer(Scene);
        Chosen = Template is not null
            ? [.. Template.Parts.OrderBy(p => p.Position).Select(p => p.SubjectId)]
            : [.. Performers.Where(p => p.Name == usual).Select(p => p.Id)];
        MarkerSet = Template?.MarkerSetId ?? JustKept.FirstOrDefault()?.MarkerSetId;
        return Page();
    }

    /// <summary>Circles a take, or takes the circle away.</summary>
    public async Task<IActionResult> OnPostCircleAsync(int take, CancellationToken cancel) =>
        await slates.Circle(take, cancel) is var (_, circled) ? new JsonResult(new { circled }) : NotFound();
}
