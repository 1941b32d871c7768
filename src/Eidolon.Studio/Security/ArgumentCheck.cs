using System.Collections;
using System.Reflection;

namespace Eidolon.Studio.Security;

/// <summary>
/// What no argument of a page may be: nothing where something is wanted, a number that is none, a choice that does not exist, or far too much.
/// </summary>
internal static class ArgumentCheck
{
    /// <summary>Longest text of one argument, characters.</summary>
    private const int LongestText = 20_000;

    /// <summary>Longest list of one argument.</summary>
    private const int LongestList = 500;

    /// <summary>What is wrong with an argument, in words; null when nothing is.</summary>
    public static string? Problem(ParameterInfo parameter, object? value) =>
        Problem(
            parameter.Name!,
            value,
            value is null
                && !parameter.ParameterType.IsValueType
                && new NullabilityInfoContext().Create(parameter).WriteState == NullabilityState.NotNull
        );

    private static string? Problem(string name, object? value, bool missing) =>
        value switch
        {
            null => missing ? $"{name} is missing" : null,
            string { Length: > LongestText } => $"{name} is too long",
            double number when !double.IsFinite(number) => $"{name} is no number",
            float number when !float.IsFinite(number) => $"{name} is no number",
            Enum choice when !Enum.IsDefined(choice.GetType(), choice) =>
                $"{name} is none of {string.Join(", ", Enum.GetNames(choice.GetType()))}",
            ICollection { Count: > LongestList } => $"{name} has too many",
            string or Microsoft.AspNetCore.Http.IFormFile or IEnumerable<Microsoft.AspNetCore.Http.IFormFile> => null,
            IEnumerable list => list.Cast<object?>().Select(item => Problem(name, item, item is null)).FirstOrDefault(p => p is not null),
            _ when value.GetType().Assembly == typeof(ArgumentCheck).Assembly && !value.GetType().IsEnum => Inside(value),
            _ => null,
        };

    private static string? Inside(object record)
    {
        var nullability = new NullabilityInfoContext();
        return record
            .GetType()
            .GetProperties(BindingFlags.Public | BindingFlags.Instance)
            .Where(p => p.GetIndexParameters().Length == 0)
            .Select(p =>
            {
                var value = p.GetValue(record);
                return Problem(p.Name, value, value is null && nullability.Create(p).ReadState == NullabilityState.NotNull);
            })
            .FirstOrDefault(problem => problem is not null);
    }
}
