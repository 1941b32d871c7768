using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages;

/// <summary>The Board: shoot days, scenes, takes, the library on its shelf, what is out of date and what needs a look.</summary>
public sealed class IndexModel(
    BoardService board,
    Slates slates,
    RecipeService recipes,
    Productions productions,
    SceneService scenes,
    DeviceRack rack,
    TakeImport import,
    JobQueue jobs,
    Storage.Library.Aside aside
) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Day { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Sort { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    [BindProperty(SupportsGet = true)]
    public List<string> Chip { get; set; } = [];

    [BindProperty(SupportsGet = true)]
    public int From { get; set; }

    public Production? Production { get; private set; }

    public IReadOnlyList<(ShootDay Day, int Takes)> Days { get; private set; } = [];

    public ShootDay? Open { get; private set; }

    public BoardService.Rows Rows { get; private set; } = new([], 0, 0);

    public (int Takes, double Seconds, int Circled, int Retargeted, int MustFix, int Stale) Sums { get; private set; }

    public IReadOnlyList<BoardService.Shelf> Performers { get; private set; } = [];

    public IReadOnlyList<BoardService.Shelf> Characters { get; private set; } = [];

    public IReadOnlyList<BoardService.Shelf> Props { get; private set; } = [];

    public IReadOnlyList<RecipeRow> Recipes { get; private set; } = [];

    public IReadOnlyList<Scene> Scenes { get; private set; } = [];

    public IReadOnlyList<Take> OutOfDate { get; private set; } = [];

    public IReadOnlyList<Take> Worst { get; private set; } = [];

    public IReadOnlyList<BoardService.Work> AtWork { get; private set; } = [];

    public IReadOnlyDictionary<int, BoardService.Work> Working { get; private set; } = new Dictionary<int, BoardService.Work>();

    public IReadOnlyDictionary<int, string> Names { get; private set; } = new Dictionary<int, string>();

    public DeviceRack Rack => rack;

    /// <summary>How much is put aside.</summary>
    public int Aside { get; private set; }

    public string? Error { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        await Load(cancel);
        return Page();
    }

    /// <summary>The next screenful of rows, or all of them anew while jobs run.</summary>
    public async Task<IActionResult> OnGetRowsAsync(CancellationToken cancel)
    {
        await Load(cancel);
        return Partial("_Rows", this);
    }

    /// <summary>What is at work now.</summary>
    public async Task<IActionResult> OnGetWorkAsync(CancellationToken cancel)
    {
        AtWork = await board.AtWork(cancel);
        return Partial("_Work", this);
    }

    public async Task<IActionResult> OnPostCircleAsync(int id, CancellationToken cancel) =>
        await slates.Circle(id, cancel) is var (day, _) ? RedirectToPage(Here(day)) : NotFound();

    /// <summary>Everything that is out of date is brought up, a job a take.</summary>
    public async Task<IActionResult> OnPostBringUpAsync(CancellationToken cancel)
    {
        if (await productions.First(cancel) is { } production)
        {
            foreach (var take in await board.OutOfDate(production.Id, cancel))
            {
                await jobs.BringUp(LedgerOwner.Take(take.Id), take.Name, cancel);
            }
        }

        return RedirectToPage(Here(Day));
    }

    /// <summary>A new shoot day, and the production with the first one.</summary>
    public async Task<IActionResult> OnPostDayAsync(string? production, string? name, CancellationToken cancel)
    {
        try
        {
            var day = await productions.AddDay(production, name, cancel);
            return RedirectToPage(Here(day.Id));
        }
        catch (RefusedException e)
        {
            return await Say(e.Message, cancel);
        }
    }

    /// <summary>A new scene of the production.</summary>
    public async Task<IActionResult> OnPostSceneAsync(string? name, CancellationToken cancel)
    {
        try
        {
            var production = await productions.Own(cancel);
            var scene = await scenes.Add(production.Id, Day, name, cancel);
            return Redirect($"/scenes/{scene.Id}/assemble");
        }
        catch (RefusedException e)
        {
            return await Say(e.Message, cancel);
        }
    }

    /// <summary>Brings in marker files; one that cannot be read changes nothing and says why.</summary>
    public async Task<IActionResult> OnPostBringAsync(List<IFormFile> files, int? day, int[] performers, CancellationToken cancel)
    {
        foreach (var file in files)
        {
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, cancel);
            try
            {
                await import.Add(ImportedFile.Read(memory.ToArray(), Path.GetFileName(file.FileName)), day ?? 0, performers, cancel);
            }
            catch (Exception e) when (e is InvalidInputException or RefusedException)
            {
                Error = e.Message;
            }
        }

        Day = day;
        if (Error is null && files.Count > 0)
        {
            return RedirectToPage(Here(day));
        }

        return await Say(Error ?? "Choose at least one file: C3D, BVH, GLB or CSV.", cancel);
    }

    /// <summary>The address of the Board with a chip put on or taken off.</summary>
    public string With(string chip)
    {
        var chips = Chip.Contains(chip) ? Chip.Where(c => c != chip) : Chip.Append(chip);
        return Address(chips, Sort);
    }

    public string Address(IEnumerable<string> chips, string? sort, int from = 0, string? handler = null) =>
        "/"
        + QueryString.Create(
            new KeyValuePair<string, string?>[]
            {
                new("Day", Open?.Id.ToString()),
                new("Find", Find),
                new("Sort", sort),
                new("From", from == 0 ? null : from.ToString()),
                new("handler", handler),
            }
                .Concat(chips.Select(c => new KeyValuePair<string, string?>("Chip", c)))
                .Where(p => !string.IsNullOrEmpty(p.Value))
        );

    private object Here(int? day) =>
        new
        {
            Day = day,
            Sort,
            Find,
        };

    private async Task<IActionResult> Say(string error, CancellationToken cancel)
    {
        Error = error;
        await Load(cancel);
        return Page();
    }

    private async Task Load(CancellationToken cancel)
    {
        Production = await productions.First(cancel);
        Days = await board.Days(cancel);
        Open = Days.Where(d => d.Day.Id == Day).Select(d => d.Day).FirstOrDefault()
            ?? Days.Where(d => d.Takes > 0).Select(d => d.Day).LastOrDefault()
            ?? Days.Select(d => d.Day).LastOrDefault();
        AtWork = await board.AtWork(cancel);
        Working = await board.Working(cancel);
        if (Open is not null)
        {
            Rows = await board.Takes(Open.Id, new BoardQuery(Day, Find, Chip, Sort, From), cancel);
            Sums = await board.Sums(Open.Id, cancel);
        }

        if (Production is { } p)
        {
            Performers = await board.Library(p.Id, SubjectKind.Performer, cancel);
            Characters = await board.Library(p.Id, SubjectKind.Character, cancel);
            Props = await board.Library(p.Id, SubjectKind.Prop, cancel);
            Names = Performers.Concat(Characters).Concat(Props).ToDictionary(s => s.Subject.Id, s => s.Subject.Name);
            Recipes = await recipes.All(cancel);
            Scenes = await board.Scenes(p.Id, Open?.Id, cancel);
            OutOfDate = await board.OutOfDate(p.Id, cancel);
            Worst = await board.NeedsALook(p.Id, cancel);
            Aside = (await aside.List(cancel)).Count;
        }
    }
}
