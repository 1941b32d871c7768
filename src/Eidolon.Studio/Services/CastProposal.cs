using System.Text.Json.Nodes;
using Eidolon.Core;
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
}
