using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>The demo production as it is made on a first start; run first it makes the one that all tests copy.</summary>
public sealed class DemoIsMadeTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    [Fact]
    public async Task The_demo_is_made_with_its_people_characters_props_and_a_day_of_takes()
    {
        await using var db = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var subjects = await db.Subjects.ToListAsync();
        Assert.Equal(
            ["Bollard hook", "Crate", "Lantern pole"],
            subjects.Where(s => s.Kind == SubjectKind.Prop).Select(s => s.Name).Order()
        );
        foreach (var name in new[] { "Ines", "Tobi", "Stevedore", "Lamplighter" })
        {
            Assert.Contains(subjects, s => s.Name == name && s.Version > 0);
        }

        // Every prop is seen as its model.
        var props = subjects.Where(s => s.Kind == SubjectKind.Prop).Select(s => (s.Id, s.Version)).ToList();
        Assert.All(props, p => Assert.NotNull(db.SubjectVersions.Single(v => v.SubjectId == p.Id && v.Number == p.Version).BlobId));
        Assert.True(await db.Takes.CountAsync() >= 10);
        Assert.Equal(0, await db.Jobs.CountAsync(j => j.State == JobState.Failed));
    }
}
