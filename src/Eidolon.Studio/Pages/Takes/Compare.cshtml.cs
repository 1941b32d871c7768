using Eidolon.Core;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>Two solves of one performance beside each other: which is better, where they differ, and which to use.</summary>
public sealed class CompareModel(TakeService takes, SolveStates states, CompareDesk desk, LedgerService ledger) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    /// <summary>The solve of the performer that is compared; the first one's when left out.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Node { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? A { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? B { get; set; }

    /// <summary>none, floor or pelvis.</summary>
    [BindProperty(SupportsGet = true)]
    public string Lay { get; set; } = "none";

    public OpenTake Open { get; private set; } = null!;

    public Take Take => Open.Take;

    public OpenTake.Role? Role { get; private set; }

    public IReadOnlyList<SolveStates.Choice> Choices { get; private set; } = [];

    public SolvePair? Pair { get; private set; }

    /// <summary>Why there is nothing to compare; empty when there is.</summary>
    public string Refusal { get; private set; } = string.Empty;

    public IActionResult OnGet(CancellationToken cancel) => Load(cancel) ? Page() : NotFound();

    /// <summary>Makes one of the two the present state; the other stays as a version.</summary>
    public async Task<IActionResult> OnPostUseAsync(string key, string name, CancellationToken cancel)
    {
        if (!Load(cancel))
        {
            return NotFound();
        }

        try
        {
            if (Role is { } role && states.Use(Open, role, key) is { } change)
            {
                await ledger.Name(Id, name, cancel);
                await ledger.AtOnce(LedgerOwner.Take(Id), change, null, cancel);
            }

            return Redirect($"/takes/{Id}/solve");
        }
        catch (RefusedException e)
        {
            Refusal = StepModel.Sentence(e.Message);
            return Page();
        }
    }

    private bool Load(CancellationToken cancel)
    {
        try
        {
            Open = takes.Open(Id);
        }
        catch (RefusedException)
        {
            return false;
        }

        Role = Open.Solved.FirstOrDefault(r => r.Node.Id == Node) ?? Open.Solved.FirstOrDefault();
        if (Role is null)
        {
            Refusal = "Nobody is solved yet: solve the take first, then two of its solves can be compared.";
            return true;
        }

        Node = Role.Node.Id;
        Choices = states.Choices(Open, Role);
        B ??= SolveStates.Now;
        A ??= Choices.FirstOrDefault(c => c.Key != B && c.Near)?.Key;
        if (A is null)
        {
            Refusal = "There is nothing to compare with yet: keep a version, change something, or solve another take of this performer.";
            return true;
        }

        try
        {
            Pair = desk.Pair(Id, Role.Node.Id, A, B, Lay, cancel);
        }
        catch (RefusedException e)
        {
            Refusal = StepModel.Sentence(e.Message);
        }

        return true;
    }
}
