using System.Reflection;

namespace Eidolon.Storage.Tests;

public sealed class DependencyTests
{
    [Theory]
    [InlineData("Eidolon.Core", "")]
    [InlineData("Eidolon.Devices", "Eidolon.Core")]
    [InlineData("Eidolon.StandIns", "Eidolon.Core Eidolon.Devices")]
    [InlineData("Eidolon.Storage", "Eidolon.Core")]
    [InlineData("eidolon-cli", "Eidolon.Core Eidolon.Devices Eidolon.StandIns")]
    public void Dependencies_point_one_way(string assembly, string allowed)
    {
        var used = Assembly
            .Load(assembly)
            .GetReferencedAssemblies()
            .Select(a => a.Name!)
            .Where(n => n.StartsWith("Eidolon", StringComparison.Ordinal));
        Assert.Subset(allowed.Split(' ', StringSplitOptions.RemoveEmptyEntries).ToHashSet(), used.ToHashSet());
    }

    [Fact]
    public void The_core_knows_no_database_and_no_web()
    {
        var used = Assembly.Load("Eidolon.Core").GetReferencedAssemblies().Select(a => a.Name!);
        Assert.DoesNotContain(used, n =>
            n.Contains("AspNetCore", StringComparison.Ordinal)
            || n.Contains("EntityFramework", StringComparison.Ordinal)
            || n.Contains("Sqlite", StringComparison.Ordinal)
        );
    }
}
