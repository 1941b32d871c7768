using System.Text.Json;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>The piece of a page that follows a job, or says what became of a wish.</summary>
internal static class JobFragment
{
    /// <summary>Does what was asked and answers with the fragment: done, on its way, or why not.</summary>
    public static async Task<IActionResult> Answer(PageModel page, JobBook book, string title, Func<Task<LedgerService.Answer>> act)
    {
        try
        {
            var answer = await act();
            if (answer.Job is { } job)
            {
                return page.Partial("_Job", JobView.Of(job, book));
            }

            page.Response.Headers["HX-Trigger"] = "e-changed";
            return page.Partial("_Job", View(title, JobState.Done, answer.Kept!.Summary));
        }
        catch (Exception e) when (LedgerRunner.IsReason(e) || e is JsonException)
        {
            return page.Partial("_Job", View(title, JobState.Failed, StepModel.Sentence(e.Message)));
        }
    }

    /// <summary>How a job stands now; the page is told when it is done.</summary>
    public static async Task<IActionResult> Follow(PageModel page, JobBook book, int job, CancellationToken cancel)
    {
        var row = await book.Find(job, cancel);
        if (row is null)
        {
            return page.NotFound();
        }

        if (row.State == JobState.Done)
        {
            page.Response.Headers["HX-Trigger"] = "e-changed";
        }

        return page.Partial("_Job", JobView.Of(row, book));
    }

    private static JobView View(string title, JobState state, string message) =>
        new(
            new JobRow
            {
                Title = title,
                Kind = JobKinds.Change,
                State = state,
                Message = message,
            },
            state == JobState.Done ? 1 : 0
        );
}
