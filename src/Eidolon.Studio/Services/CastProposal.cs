using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Clipping;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>How a cast begins: where its performer holds props, the character meets them; otherwise it goes as its own legs take it.</summary>
public static class CastProposal
{
    /// <summary>Parameters of the first retarget of a performer.</summary>
    public static JsonObject For(OpenTake open, int performer)
    {
        var setup = new RetargetSetup();
        var role = open.Performers.FirstOrDefault(p => p.Subject.Id == performer);
        if (role?.Motion is not { } motion || motion.Skeleton.IndexOf(BodyRole.HandL) < 0)
        {
            return RetargetOperation.Parameters(setup);
        }

        try
        {
            var props = open.Props.Where(p => p.Places is not null).Select(p => (open.Resources.Prop(p.Subject.Id), p.Places!)).ToArray();
            return RetargetOperation.Parameters(GripFinder.Meet(setup, GripFinder.Find(motion, props), motion.FrameRate));
        }
        catch (RefusedException)
        {
            // A prop that is gone from the library is held by nobody.
            return RetargetOperation.Parameters(setup);
        }
    }

    /// <summary>Parameters that close a character's fingers around what its performer's hands hold.</summary>
    /// <param name="cast">The node.</param>
    /// <exception cref="RefusedException">There is no such cast, it has no motion, no fingers, or holds nothing; says which.</exception>
    public static JsonObject Grip(OpenTake open, int cast)
    {
        var role = open.Casts.FirstOrDefault(c => c.Node.Id == cast) ?? throw new RefusedException("that cast is gone");
        var source = open.Performers.FirstOrDefault(p => p.Subject.Id == role.Subject.Id)?.Motion;
        if (role.Motion is not { } motion || source is null)
        {
            throw new RefusedException("retarget first: there is no motion yet");
        }

        var props = open.Props.Where(p => p.Places is not null).ToList();
        var now = props.ConvertAll(p => open.AtHand.First(a => a.Subject.Id == p.Subject.Id).Places!);
        var bodies = props.ConvertAll(p => (open.Resources.Prop(p.Subject.Id), p.Places!));
        var grips = GripFinder.Find(source, bodies).Where(g => GripPose.Can(motion.Skeleton, g.Hand)).ToList();
        return grips.Count == 0
            ? throw new RefusedException(
                GripPose.Can(motion.Skeleton, BodyRole.HandR)
                    ? "no hand holds a prop in this take"
                    : $"the {role.Character!.Name} has no fingers to close"
            )
            : RetargetOperation.GripParameters(
                grips.Select(g =>
                    GripPose.Fit(
                        motion,
                        g.Hand,
                        g.Start,
                        g.End,
                        EncounterProp.Of(props[g.Prop].Subject.Name, now[g.Prop], bodies[g.Prop].Item1)
                    )
                )
            );
    }
}
