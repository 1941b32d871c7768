using Microsoft.AspNetCore.Mvc.ModelBinding;

namespace Eidolon.Studio.Pages;

/// <summary>What is wrong with a form, for a person.</summary>
internal static class Complaints
{
    /// <summary>The first complaint about what was asked for; null when there is none.</summary>
    public static string? Complaint(this ModelStateDictionary state) =>
        state
            .Where(entry => entry.Value?.ValidationState == ModelValidationState.Invalid)
            .SelectMany(entry => entry.Value!.Errors)
            .Select(error => error.ErrorMessage)
            .FirstOrDefault();
}
