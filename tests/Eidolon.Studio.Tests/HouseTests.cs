using System.Reflection;
using Eidolon.Studio;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Tests;

/// <summary>Rules of the house that a compiler does not know.</summary>
public sealed class HouseTests
{
    private static IEnumerable<Type> Pages =>
        typeof(StudioHost).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(PageModel)) && !t.IsAbstract);

    [Fact]
    public void No_page_knows_the_database()
    {
        static bool IsDatabase(Type type) =>
            type.IsAssignableTo(typeof(DbContext))
            || (type.IsGenericType && type.GetGenericTypeDefinition() == typeof(IDbContextFactory<>));

        var pages = Pages.ToArray();
        Assert.True(pages.Length > 12, $"{pages.Length} pages");
        Assert.DoesNotContain(pages.SelectMany(p => p.GetConstructors()).SelectMany(c => c.GetParameters()), p =>
            IsDatabase(p.ParameterType)
        );
    }

    [Fact]
    public void A_page_asks_for_few_things_by_name()
    {
        // What takes many fields is a request of its own with its rules beside it.
        var many = Pages
            .SelectMany(p => p.GetMethods(BindingFlags.Instance | BindingFlags.Public | BindingFlags.DeclaredOnly))
            .Where(m => m.Name.StartsWith("OnPost", StringComparison.Ordinal))
            .Where(m => m.GetParameters().Count(p => p.ParameterType != typeof(CancellationToken)) > 4)
            .Select(m => $"{m.DeclaringType!.Name}.{m.Name}");
        Assert.Empty(many);
    }
}
