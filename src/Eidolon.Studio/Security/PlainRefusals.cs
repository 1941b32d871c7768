using Microsoft.AspNetCore.Mvc.ModelBinding.Metadata;

namespace Eidolon.Studio.Security;

/// <summary>The one place of the words for a field that cannot be read: its name and what stands there.</summary>
internal static class PlainRefusals
{
    private const int Longest = 40;

    public static void Set(DefaultModelBindingMessageProvider words)
    {
        words.SetAttemptedValueIsInvalidAccessor((value, field) => $"{field}: {Short(value)} cannot be used.");
        words.SetNonPropertyAttemptedValueIsInvalidAccessor(value => $"{Short(value)} cannot be used.");
        words.SetUnknownValueIsInvalidAccessor(field => $"{field}: what stands there cannot be used.");
        words.SetNonPropertyUnknownValueIsInvalidAccessor(() => "What stands there cannot be used.");
        words.SetValueIsInvalidAccessor(value => $"{Short(value)} cannot be used.");
        words.SetValueMustBeANumberAccessor(field => $"{field} is no number.");
        words.SetNonPropertyValueMustBeANumberAccessor(() => "A number is wanted.");
        words.SetValueMustNotBeNullAccessor(_ => "Something is missing.");
        words.SetMissingBindRequiredValueAccessor(field => $"{field} is missing.");
    }

    private static string Short(string value) => $"“{(value.Length > Longest ? value[..Longest] + "…" : value)}”";
}
