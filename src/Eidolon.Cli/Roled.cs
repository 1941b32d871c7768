using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli;

/// <summary>Skeletons whose joints play roles, for verbs that cannot do without: given ones, the file's own, or found ones.</summary>
internal static class Roled
{
    /// <param name="map">A role map's file; null where none was given.</param>
    /// <exception cref="InvalidInputException">A role that is needed has no joint.</exception>
    public static Skeleton Of(Skeleton skeleton, string? map, string file)
    {
        try
        {
            return RoleFinder.Assign(skeleton, map is null ? null : RoleMapJson.Read(InputFile.Read(map), map, skeleton), file);
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new InvalidInputException(map ?? file, "roles", e.Message, e);
        }
    }

    /// <summary>A motion whose skeleton has every role that is needed.</summary>
    /// <exception cref="InvalidInputException">It cannot be read, or a role has no joint.</exception>
    public static Motion Read(string file, double? scale)
    {
        var motion = MotionFiles.ReadMotion(file, scale);
        return motion.On(Of(motion.Skeleton, null, file));
    }
}
