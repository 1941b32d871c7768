using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>By whose hands a prop goes at first: those of the characters whose performers held it.</summary>
public static class AttachProposal
{
    /// <summary>Parameters of the entry that lets them carry it.</summary>
    /// <param name="chosen">Who carries it where a performer plays several characters; else the first one.</param>
    /// <exception cref="RefusedException">Nobody holds it, or it is not found yet; says which.</exception>
    public static JsonObject For(OpenTake open, int prop, int? chosen)
    {
        var role = open.Props.FirstOrDefault(p => p.Subject.Id == prop)
            ?? throw new RefusedException("this prop is not on the slate of the take");
        if (role.Places is not { } places)
        {
            throw new RefusedException($"the {role.Name} is not found in this take yet: solve the take first");
        }

        (RigidBody, PropPlaces)[] asked = [(open.Resources.Prop(prop), places)];
        var holds = new List<AttachOperation.Hold>();
        foreach (var cast in open.Played.GroupBy(c => c.Subject.Id).Select(g => g.FirstOrDefault(c => c.Node.Id == chosen) ?? g.First()))
        {
            if (open.Performers.FirstOrDefault(p => p.Subject.Id == cast.Subject.Id)?.Motion is { } motion)
            {
                holds.AddRange(GripFinder.Find(motion, asked).Select(g => new AttachOperation.Hold(cast.Node.Id, g.Hand, g.Start, g.End)));
            }
        }

        if (holds.Count == 0)
        {
            throw new RefusedException(
                open.Played.Any()
                    ? $"no hand of a character's performer holds the {role.Name}"
                    : "nobody plays a character yet: say who plays whom"
            );
        }

        // Who holds it longest leads.
        return AttachOperation.ParametersOf(
            holds
                .GroupBy(h => (h.Cast, h.Hand))
                .OrderByDescending(g => g.Sum(h => h.End - h.Start))
                .SelectMany(g => g.OrderBy(h => h.Start))
        );
    }

    /// <summary>Entries by which characters that hold something with both hands bring the other hand along with the one that leads.</summary>
    /// <exception cref="RefusedException">Nobody holds anything with both hands.</exception>
    public static IReadOnlyList<NewEntry> Together(OpenTake open)
    {
        var both = AttachOperation.BothOf(open.Attached.Select(HoldsOf));
        return both.Count == 0
            ? throw new RefusedException("nobody holds anything with both hands")
            : [.. both.Select(b => new NewEntry(RetargetOperation.Together.Name, RetargetOperation.TogetherParameters(b.Value), b.Key))];
    }

    /// <summary>The hands that have an attached prop; none where it goes as it was recorded.</summary>
    private static IEnumerable<AttachOperation.Hold> HoldsOf(OpenTake.Role attached) =>
        attached
            .Node.Entries.Where(e => e.Operation == AttachOperation.Attach.Name && e.On)
            .SelectMany(e => AttachOperation.HandsOf(e.ToEntry().Parameters));
}
