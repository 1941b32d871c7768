using System.Text.Json.Nodes;
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

    /// <summary>none, floor or pelvis; a suit knows nothing of the room, so that it is laid over the floor where nothing is said.</summary>
    [BindProperty(SupportsGet = true)]
    public string? Lay { get; set; }

    /// <summary>A person said how they are laid; it stays so whatever is compared.</summary>
    public bool LaySaid { get; private set; }

    public OpenTake Open { get; private set; } = null!;

    public Take Take => Open.Take;

    public OpenTake.Role? Role { get; private set; }

    public IReadOnlyList<SolveStates.Choice> Choices { get; private set; } = [];

    public SolvePair? Pair { get; private set; }

    /// <summary>
    /// When the recording that is solved now would have to begin, seconds after the take, to go together with the other one; null where it does, or has
    /// the take's own clock.
    /// </summary>
    public double? Begins
    {
        get
        {
            if (Pair is not { Difference.OffsetFrames: not 0 and var shift } pair || Role is not { } role)
            {
                return null;
            }

            var later =
                pair.B.Choice.Key == SolveStates.Now ? shift
                : pair.A.Choice.Key == SolveStates.Now ? -shift
                : 0;
            var entry = role.State.Node.Entries.FirstOrDefault(e => e.Operation == role.Solver);
            return later == 0 || entry is null || !role.Beside
                ? null
                : ((double?)entry.Parameters["late"] ?? 0) + (later / pair.A.Motion.FrameRate);
        }
    }

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

    /// <summary>The recording that is solved now begins earlier or later, so that it goes together with the other one.</summary>
    public async Task<IActionResult> OnPostInStepAsync(double late, CancellationToken cancel)
    {
        if (!Load(cancel) || Role is not { } role)
        {
            return NotFound();
        }

        try
        {
            var parameters = new JsonObject { ["late"] = late };
            await ledger.Add(LedgerOwner.Take(Id), Open.Take.Name, role.Solver, parameters, role.Node.Id, null, cancel);
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

        LaySaid = Lay is not null;
        Lay ??= Choices.Any(c => (c.Key == A || c.Key == B) && c.OtherWay) ? "floor" : "none";
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
