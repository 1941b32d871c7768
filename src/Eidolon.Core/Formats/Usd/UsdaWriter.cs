using System.Globalization;
using System.Numerics;
using System.Text;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Usd;

/// <summary>Writes a motion as text USD: a skeleton with its rest pose and one animation of local turns and places, face weights beside them.</summary>
/// <remarks>
/// After the UsdSkel schema (OpenUSD documentation, "UsdSkel"): joints are paths of names from the root, matrices have their translation in the last
/// row, quaternions begin with the real part, time codes are frames.
/// </remarks>
public static class UsdaWriter
{
    private const string Root = "Root";

    /// <param name="metres">Metres a unit of the file.</param>
    /// <param name="up">Y or Z: which axis the values that are written have upright.</param>
    public static void Write(Stream stream, Motion motion, double metres = 1, char up = 'Y')
    {
        using var text = new StreamWriter(stream, new UTF8Encoding(false), 1 << 16, leaveOpen: true) { NewLine = "\n" };
        var s = motion.Skeleton;
        var scale = (float)(1 / metres);
        var joints = string.Join(", ", Paths(s).Select(p => $"\"{p}\""));
        var (first, last) = (motion.FirstFrame, motion.FirstFrame + motion.FrameCount - 1);
        text.Write(
            $$"""
            #usda 1.0
            (
                defaultPrim = "{{Root}}"
                endTimeCode = {{last}}
                framesPerSecond = {{Number(motion.FrameRate)}}
                metersPerUnit = {{Number(metres)}}
                startTimeCode = {{first}}
                timeCodesPerSecond = {{Number(motion.FrameRate)}}
                upAxis = "{{up}}"
            )

            def SkelRoot "{{Root}}"
            {
                def Skeleton "Skeleton" (
                    prepend apiSchemas = ["SkelBindingAPI"]
                )
                {
                    uniform matrix4d[] bindTransforms = [{{Join(s.Count, j => Matrix(s.RestRotations[j], s.RestPositions[j] * scale))}}]
                    uniform token[] joints = [{{joints}}]
                    uniform matrix4d[] restTransforms = [{{Join(s.Count, j => Matrix(s[j].RestRotation, s[j].Offset * scale))}}]
                    rel skel:animationSource = </{{Root}}/Skeleton/Animation>

                    def SkelAnimation "Animation"
                    {
                        uniform token[] joints = [{{joints}}]
                        half3[] scales = [{{Join(s.Count, _ => "(1, 1, 1)")}}]

            """
        );
        Samples(text, "quatf[] rotations", motion, f => Join(s.Count, j => Quat(motion.RotationsAt(f)[j])));
        Samples(text, "float3[] translations", motion, f => Join(s.Count, j => Triple(motion.TranslationsAt(f)[j] * scale)));
        if (motion.Morphs.Count > 0)
        {
            var weights = motion.Morphs.Values.ToArray();
            var names = Unique(motion.Morphs.Keys);
            text.Write($"            uniform token[] blendShapes = [{string.Join(", ", names.Select(n => $"\"{n}\""))}]\n");
            Samples(text, "float[] blendShapeWeights", motion, f => Join(weights.Length, k => Number(weights[k][f])));
        }

        text.Write("        }\n    }\n}\n");
    }

    /// <summary>Each joint as the path of names from the root; no two are alike.</summary>
    private static string[] Paths(Skeleton s)
    {
        var names = Unique(s.Joints.Select(j => j.Name));
        var paths = new string[s.Count];
        for (var j = 0; j < paths.Length; j++)
        {
            paths[j] = s.Parents[j] < 0 ? names[j] : $"{paths[s.Parents[j]]}/{names[j]}";
        }

        return paths;
    }

    /// <summary>Names as the format allows them: letters, digits and underscores, no digit first.</summary>
    private static string[] Unique(IEnumerable<string> names)
    {
        var used = new HashSet<string>(StringComparer.Ordinal);
        return
        [
            .. names.Select(name =>
            {
                var plain = string.Concat(name.Select(c => char.IsAsciiLetterOrDigit(c) ? c : '_'));
                plain = plain.Length == 0 || char.IsAsciiDigit(plain[0]) ? "_" + plain : plain;
                var own = plain;
                for (var k = 2; !used.Add(own); k++)
                {
                    own = $"{plain}_{k}";
                }

                return own;
            }),
        ];
    }

    private static void Samples(TextWriter text, string what, Motion motion, Func<int, string> frame)
    {
        text.Write($"            {what}.timeSamples = {{\n");
        for (var f = 0; f < motion.FrameCount; f++)
        {
            text.Write($"                {motion.FirstFrame + f}: [{frame(f)}],\n");
        }

        text.Write("            }\n");
    }

    private static string Join(int count, Func<int, string> each) => string.Join(", ", Enumerable.Range(0, count).Select(each));

    private static string Number(double v) => ((float)v).ToString("R", CultureInfo.InvariantCulture);

    private static string Triple(Vector3 v) => $"({Number(v.X)}, {Number(v.Y)}, {Number(v.Z)})";

    private static string Quat(Quaternion q) => $"({Number(q.W)}, {Number(q.X)}, {Number(q.Y)}, {Number(q.Z)})";

    private static string Matrix(Quaternion turn, Vector3 place)
    {
        var m = Matrix4x4.CreateFromQuaternion(turn);
        return $"( ({Number(m.M11)}, {Number(m.M12)}, {Number(m.M13)}, 0), ({Number(m.M21)}, {Number(m.M22)}, {Number(m.M23)}, 0), "
            + $"({Number(m.M31)}, {Number(m.M32)}, {Number(m.M33)}, 0), ({Number(place.X)}, {Number(place.Y)}, {Number(place.Z)}, 1) )";
    }
}
