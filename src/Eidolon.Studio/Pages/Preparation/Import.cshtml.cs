using System.ComponentModel.DataAnnotations;
using System.Globalization;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Import: drop files, see and correct them on the Stage, take them in.</summary>
public sealed class ImportModel(BoardService board, Productions productions, ImportDesk desk, TakeImport import) : PageModel
{
    [BindProperty(SupportsGet = true, Name = "file")]
    public string? Waiting { get; set; }

    [TempData]
    public string? Taken { get; set; }

    public IReadOnlyList<ImportDesk.Item> Items => desk.Items;

    public ImportDesk.Item? Chosen { get; private set; }

    public List<string> Errors { get; } = [];

    public string SetError { get; private set; } = string.Empty;

    public string Said => Taken ?? string.Empty;

    public double Height { get; private set; }

    /// <summary>True when what would be taken in is no person's size.</summary>
    public bool Odd => Height is not (> 0.4 and < 3.2) && !double.IsNaN(Height);

    public IReadOnlyList<ShootDay> Days { get; private set; } = [];

    public IReadOnlyList<Subject> Performers { get; private set; } = [];

    /// <summary>Where a suit or films may lie beside another recording of the performance; empty for other files.</summary>
    public IReadOnlyList<TakeImport.Place> Places { get; private set; } = [];

    /// <summary>What the numbers of the file may be, and the factor that makes it so.</summary>
    public IEnumerable<(string Word, double Scale)> Units
    {
        get
        {
            Core.Formats.Units.TryMetres(Chosen!.File.Units, out var own);
            yield return ($"as it says ({Chosen.File.Units})", 1);
            foreach (var unit in new[] { "m", "cm", "mm", "in" }.Where(u => u != Chosen.File.Units))
            {
                Core.Formats.Units.TryMetres(unit, out var metres);
                yield return ($"{unit}, not {Chosen.File.Units}", metres / own);
            }
        }
    }

    /// <summary>The scale is none of the known units'.</summary>
    public bool OtherScale => Units.All(u => Math.Abs(u.Scale - Chosen!.Settings.Scale) > 1e-9 * u.Scale);

    /// <summary>Who is ticked for a file: who was chosen for it, or the first of the library.</summary>
    public bool IsIn(ImportDesk.Item item, int performer, int index) => item.Performers?.Contains(performer) ?? index == 0;

    /// <summary>Who performed a file, for the list; nothing before somebody said so.</summary>
    public string NamesOf(ImportDesk.Item item) =>
        item.Performers is { } ids ? ", " + string.Join(", ", Performers.Where(p => ids.Contains(p.Id)).Select(p => p.Name)) : string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    /// <summary>Files dropped: each is read; one that cannot be says why and changes nothing.</summary>
    public async Task<IActionResult> OnPostPutAsync(List<IFormFile> files, CancellationToken cancel)
    {
        // Cameras last: they are those of films that came with them, or that wait already.
        ImportDesk.Item? films = null;
        foreach (var file in files.OrderBy(f => IsCameras(f.FileName)).ThenBy(f => f.FileName, StringComparer.Ordinal))
        {
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, cancel);
            try
            {
                films = Put(memory.ToArray(), Path.GetFileName(file.FileName), films);
            }
            catch (InvalidInputException e)
            {
                Errors.Add(e.Message);
            }
        }

        if (files.Count == 0)
        {
            Errors.Add("Choose at least one file.");
        }

        if (Errors.Count == 0)
        {
            return RedirectToPage(new { file = Waiting });
        }

        await Load(cancel);
        return Page();
    }

    private static bool IsCameras(string file) => file.EndsWith(".json", StringComparison.OrdinalIgnoreCase);

    /// <summary>One file of a drop.</summary>
    /// <param name="films">Films that came before it in the same drop.</param>
    /// <returns>The films it belongs to, if it is one.</returns>
    private ImportDesk.Item? Put(byte[] bytes, string name, ImportDesk.Item? films)
    {
        if (IsCameras(name))
        {
            films ??= desk.Items.LastOrDefault(i => i.File.Films is not null)
                ?? throw new InvalidInputException(name, "the file", "cameras want films beside them: drop both together");
            Waiting = films.Id;
            return desk.Join(films, bytes, name);
        }

        var isFilm = WitnessCsv.Is(bytes);
        var item = isFilm && films is not null ? desk.Join(films, bytes, name) : desk.Put(bytes, name);
        Waiting = item.Id;
        return isFilm ? item : films;
    }

    public async Task<IActionResult> OnPostSetAsync(string id, [FromForm] Wish asked, CancellationToken cancel)
    {
        Waiting = id;
        try
        {
            var file = desk.Find(id)?.File ?? throw new ArgumentException("the file is gone; drop it again");
            if (ModelState.Complaint() is { } complaint)
            {
                throw new ArgumentException(complaint);
            }

            desk.Set(id, Tall(file, asked.For(file), asked.Tall));
            return RedirectToPage(new { file = id });
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            SetError = e.Message;
            await Load(cancel);
            return Page();
        }
    }

    /// <summary>What is put right in a file before it is taken in.</summary>
    public sealed record Wish
    {
        /// <summary>Factor by which lengths are multiplied, or "other" for <see cref="Other"/>.</summary>
        public string Scale { get; init; } = "1";

        [Range(1e-6, 1e6, ErrorMessage = "the factor is no number above 0")]
        public double? Other { get; init; }

        /// <summary>The figure shall be so tall, metres.</summary>
        [Range(0.3, 3, ErrorMessage = "a figure is between 0.3 and 3 m tall")]
        public double? Tall { get; init; }

        [Required]
        public string Up { get; init; } = "Y";

        public bool LeftHanded { get; init; }

        /// <summary>How wide the lens of a film sees, degrees.</summary>
        [Range(5, 150, ErrorMessage = "a lens sees between 5 and 150 degrees wide")]
        public double Lens { get; init; } = ImportedFilms.UsualAngle;

        /// <summary>A film in slow motion was shot so many times faster than it plays.</summary>
        [Range(0.1, 40, ErrorMessage = "a film is shot at most 40 times too fast")]
        public double TooFast { get; init; } = 1;

        /// <summary>Frames a second.</summary>
        [Range(1, 10_000, ErrorMessage = "the rate is no number of frames a second")]
        public double Rate { get; init; }

        /// <summary>Prefixes that are taken in.</summary>
        public string[] Subjects { get; init; } = [];

        public string? OldPrefix { get; init; }

        public string? NewPrefix { get; init; }

        /// <exception cref="ArgumentException">The factor is no number.</exception>
        internal ImportSettings For(ImportedFile file)
        {
            var scale =
                Scale == "other" ? Other ?? throw new ArgumentException("the factor is no number above 0")
                : double.TryParse(Scale, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) ? v
                : throw new ArgumentException("the unit is none of the list");
            var own = file.Prefixes.Any(p => p.Length > 0);
            var renamed = own && NewPrefix != OldPrefix;
            return new ImportSettings(
                scale,
                Up,
                Math.Abs(Rate - file.FrameRate) < 0.0005 ? null : Rate,
                renamed ? OldPrefix : null,
                renamed ? NewPrefix?.Trim() : null,
                own ? Subjects : null,
                LeftHanded,
                Lens,
                TooFast
            );
        }
    }

    /// <summary>The scale that makes the figure so tall from its lowest to its highest point.</summary>
    private static ImportSettings Tall(ImportedFile file, ImportSettings settings, double? metres)
    {
        if (metres is not { } wanted)
        {
            return settings;
        }

        var now = file.Corrected(settings).Height();
        return now > 0
            ? settings with
            {
                Scale = settings.Scale * wanted / now,
            }
            : throw new ArgumentException("nothing is seen in the file whose height could be taken");
    }

    /// <summary>Who performed the file: kept with it, so that many files at once each keep their own.</summary>
    public IActionResult OnPostWho(string id, int[] performers)
    {
        desk.Who(id, performers);
        return StatusCode(StatusCodes.Status204NoContent);
    }

    /// <summary>Where a file goes.</summary>
    public sealed record Wanted
    {
        /// <summary>Shoot day of a take of its own; the newest when left out.</summary>
        public int? Day { get; init; }

        /// <summary>Who performed it.</summary>
        public int[] Performers { get; init; } = [];

        /// <summary>The performer of a take beside which it lies; empty for a take of its own.</summary>
        public string? Beside { get; init; }
    }

    public async Task<IActionResult> OnPostTakeAsync(string id, [FromForm] Wanted wanted, bool all, CancellationToken cancel)
    {
        if (!string.IsNullOrEmpty(wanted.Beside) && desk.Find(id) is { } recording)
        {
            return await Beside(recording, wanted.Beside, cancel);
        }

        var names = new List<string>();
        foreach (var item in all ? desk.Items : desk.Items.Where(i => i.Id == id))
        {
            try
            {
                var who = item.Id == id ? wanted.Performers : item.Performers ?? wanted.Performers;
                names.Add((await import.Add(item.File.Corrected(item.Settings), wanted.Day ?? 0, who, cancel)).Name);
                desk.Drop(item.Id);
            }
            catch (Core.RefusedException e)
            {
                SetError = e.Message;
                await Load(cancel);
                return Page();
            }
        }

        Taken =
            names.Count == 0
                ? "The file is gone; drop it again."
                : $"{string.Join(", ", names)} {(names.Count == 1 ? "is" : "are")} on the Board.";
        return RedirectToPage();
    }

    private async Task<IActionResult> Beside(ImportDesk.Item recording, string place, CancellationToken cancel)
    {
        try
        {
            var take = await import.Beside(recording.File.Corrected(recording.Settings), place, cancel);
            desk.Drop(recording.Id);
            Taken = $"{recording.File.Name} lies beside {take}: at Solve choose what it is solved from.";
            return RedirectToPage();
        }
        catch (RefusedException e)
        {
            SetError = e.Message;
            await Load(cancel);
            return Page();
        }
    }

    public IActionResult OnPostDrop(string id)
    {
        desk.Drop(id);
        return RedirectToPage();
    }

    private async Task Load(CancellationToken cancel)
    {
        Chosen = Waiting is null ? Items.FirstOrDefault() : desk.Find(Waiting);
        Days = [.. (await board.Days(cancel)).Select(d => d.Day).Reverse()];
        Performers = await productions.First(cancel) is { } production
            ? [.. (await board.Library(production.Id, SubjectKind.Performer, cancel)).Select(s => s.Subject)]
            : [];
        Places = Chosen?.File is { Suit: not null } or { Films: not null } ? await import.Places(cancel) : [];
        Height = Chosen?.File.Corrected(Chosen.Settings).Height() ?? 0;
    }
}
