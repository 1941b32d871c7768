using System.Reflection;
using Microsoft.AspNetCore.Http;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>What somebody may send where the program expects something else.</summary>
internal static class OddValues
{
    private static readonly string[] Numbers =
    [
        "",
        "-1",
        "0",
        "999999",
        "99999999999999999999",
        "NaN",
        "Infinity",
        "1e308",
        "-0",
        "null",
        "7;DROP",
    ];

    private static readonly string[] Texts =
    [
        "",
        " ",
        "\0",
        "null",
        "{}",
        "[]",
        "[null]",
        "{\"a\":",
        "{\"longest\":1e400}",
        "{\"method\":null,\"longest\":\"x\",\"frames\":[1,\"a\"]}",
        "{\"start\":-5,\"end\":2147483647,\"marker\":\"nobody\",\"markers\":[null],\"names\":{\"a\":3}}",
        "../../etc/passwd",
        "<b>&\u202e🎭",
        new('x', 2000),
    ];

    /// <summary>Odd values of a parameter of this type, as they stand in an address or a form.</summary>
    public static IReadOnlyList<string> For(Type type)
    {
        var bare = Nullable.GetUnderlyingType(type) ?? type;
        bare = bare.IsArray ? bare.GetElementType()! : bare;
        return bare == typeof(string) || bare == typeof(object) || bare.IsClass ? Texts : Numbers;
    }

    /// <summary>A value that is probably taken, so that the odd one of another parameter is reached.</summary>
    public static string Usual(ParameterInfo parameter) => Usual(parameter.Name!, parameter.ParameterType);

    public static string Usual(string name, Type type)
    {
        var bare = Nullable.GetUnderlyingType(type) ?? type;
        return bare == typeof(bool) ? "true"
            : bare == typeof(DateOnly) ? "2026-05-04"
            : bare.IsPrimitive || bare.IsArray || bare.IsEnum || bare == typeof(decimal) ? "1"
            : name switch
            {
                "parameters" or "json" or "settings" => "{}",
                "operation" => "fill",
                "step" => "clean",
                "marker" or "dot" => "LFHD",
                _ => "some",
            };
    }

    public static bool IsFile(Type type) =>
        typeof(IFormFile).IsAssignableFrom(type) || typeof(IEnumerable<IFormFile>).IsAssignableFrom(type);
}
