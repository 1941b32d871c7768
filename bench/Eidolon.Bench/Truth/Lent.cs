using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Bench.Truth;

/// <summary>The lent recording of a real performance, where it lies beside the project; nothing of it is kept here.</summary>
internal static class Lent
{
    /// <summary>Metres a unit of its motion file.</summary>
    private const double Unit = 0.0564444;

    public static string? Folder()
    {
        var folder = ReferenceProblem.Folder() is { } f ? Path.Combine(f, "real") : null;
        return folder is not null && Directory.Exists(folder) ? folder : null;
    }

    public static Motion Motion(string folder)
    {
        var motion = BvhReader.Read(File.ReadAllBytes(Path.Combine(folder, "motion.bvh")), "motion.bvh", Unit);
        return motion.On(motion.Skeleton.WithRoles(RoleFinder.Find(motion.Skeleton).Roles));
    }

    public static MarkerTake Markers(string folder, string file) =>
        MotionFiles.ReadMarkers(File.ReadAllBytes(Path.Combine(folder, file)), file).Take;
}
