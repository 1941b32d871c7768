using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Bones of performers and characters, to be compared by eye.</summary>
public sealed class SizeService(IDbContextFactory<EidolonDb> factory)
{
    /// <summary>Somebody whose bones are known.</summary>
    public sealed record Body(int Subject, string Name, string Group);

    /// <summary>A performer's bones, and another body's beside them.</summary>
    /// <param name="Against">Null when nobody was chosen.</param>
    public sealed record Sizes(int Node, string Name, IReadOnlyList<BoneSize> Own, Body? Against, IReadOnlyList<BoneSize> Other);

    /// <summary>All measured performers and all characters of a production but one.</summary>
    public IReadOnlyList<Body> Bodies(int production, int but)
    {
        using var db = factory.CreateDbContext();
        return
        [
            .. db
                .Shelf.AsNoTracking()
                .Where(s => s.ProductionId == production && s.Version > 0 && s.Id != but && s.Kind != SubjectKind.Prop)
                .OrderBy(s => s.Kind)
                .ThenBy(s => s.Name)
                .Select(s => new Body(s.Id, s.Name, s.Kind == SubjectKind.Performer ? "Performers" : "Characters")),
        ];
    }

    /// <summary>The bones of a solved performer, against somebody's.</summary>
    /// <param name="against">A subject; 0 for nobody.</param>
    /// <exception cref="RefusedException">That body is not known.</exception>
    public Sizes Of(OpenTake open, OpenTake.Role role, int against)
    {
        var own = BoneSize.Of(role.Motion!.Skeleton);
        var body = against == 0 ? null : Bodies(open.Take.ProductionId, role.Subject.Id).FirstOrDefault(b => b.Subject == against);
        return new Sizes(role.Node.Id, role.Subject.Name, own, body, body is null ? [] : BoneSize.Of(Skeleton(open, body)));
    }

    private Skeleton Skeleton(OpenTake open, Body body)
    {
        if (body.Group == "Characters")
        {
            return open.Resources.Character(body.Subject);
        }

        using var db = factory.CreateDbContext();
        return SubjectLibrary.Current(db, body.Subject) is (_, { Measured: true } version)
            ? PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), body.Name).Skeleton
            : throw new RefusedException($"{body.Name} is not measured yet");
    }
}
