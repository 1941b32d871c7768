using Eidolon.Core;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Library;

/// <summary>Characters: brought in as GLB, glTF or BVH, and again as a new version.</summary>
public sealed class CharactersModel(BoardService board, Productions productions, SubjectLibrary library, FollowUps followUps) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Character { get; set; }

    public IReadOnlyList<BoardService.Shelf> Rows { get; private set; } = [];

    public BoardService.Shelf? Chosen { get; private set; }

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    /// <summary>A new character, or a new version of one.</summary>
    public async Task<IActionResult> OnPostAsync(string? name, int? character, IFormFile? file, CancellationToken cancel)
    {
        try
        {
            if (file is null || file.Length == 0)
            {
                throw new RefusedException("Choose a GLB, glTF or BVH file.");
            }

            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, cancel);
            var production = await productions.Own(cancel);
            var wish = string.IsNullOrWhiteSpace(name) ? Path.GetFileNameWithoutExtension(file.FileName) : name;
            var id = character ?? (await library.Add(production.Id, SubjectKind.Character, wish, cancel)).Id;
            try
            {
                await library.Dress(id, memory.ToArray(), Path.GetFileName(file.FileName), cancel);
            }
            catch when (character is null)
            {
                await library.Forget(id, cancel);
                throw;
            }

            followUps.LibraryChanged(id);
            return RedirectToPage("/Library/Prepare", new { character = id });
        }
        catch (Exception e) when (e is RefusedException or InvalidInputException or ArgumentException)
        {
            Error = e.Message;
            Character = character;
            await Load(cancel);
            return Page();
        }
    }

    private async Task Load(CancellationToken cancel)
    {
        if (await productions.First(cancel) is { } production)
        {
            Rows = await board.Library(production.Id, SubjectKind.Character, cancel);
            Chosen = Character is { } id ? Rows.FirstOrDefault(r => r.Subject.Id == id) : Rows.FirstOrDefault();
        }
    }
}
