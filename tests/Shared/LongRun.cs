using System.Reflection;
using Xunit.Sdk;

namespace Eidolon.Testing;

/// <summary>
/// Three runs of the tests: <c>./eidolon test</c>; <c>--quick</c>, without what keeps time with devices or opens a browser; and <c>--long</c>, with the
/// sweeps over scenes, people, rates and odd values of which the others run a sentinel.
/// </summary>
internal static class LongRun
{
    /// <summary>The trait of tests that not every run has: <c>[Trait(LongRun.Run, LongRun.Long)]</c>.</summary>
    public const string Run = "Run";

    /// <summary>In the long run alone.</summary>
    public const string Long = "long";

    /// <summary>Not in the quick run: it keeps time with devices, or takes many seconds.</summary>
    public const string Whole = "whole";

    public static readonly bool On = Environment.GetEnvironmentVariable("EIDOLON_TESTS") == Long;

    /// <summary>So much in the long run, so much in the others.</summary>
    public static T Or<T>(T inTheLongRun, T otherwise) => On ? inTheLongRun : otherwise;
}

/// <summary>A row of a theory that only the long run has; the rows beside it stand for it otherwise.</summary>
[AttributeUsage(AttributeTargets.Method, AllowMultiple = true)]
internal sealed class LongDataAttribute(params object[] row) : DataAttribute
{
    public override IEnumerable<object[]> GetData(MethodInfo testMethod) => LongRun.On ? [row] : [];
}
