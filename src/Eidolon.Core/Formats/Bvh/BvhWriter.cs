using System.Buffers;
using System.Buffers.Text;
using System.Numerics;
using System.Text;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Bvh;

/// <summary>Writes BVH text with enough digits that a round trip changes no joint by a micrometre.</summary>
public static class BvhWriter
{
    /// <param name="unitScale">Metres per unit to write.</param>
    public static void Write(Stream stream, Motion source, double unitScale = 0.01, RotationOrder? order = null)
    {
        var motion = MotionEdits.LevelRest(source);
        var skeleton = motion.Skeleton;
        var turns = order ?? RotationOrder.ZXY;
        var moves = MovingJoints(motion);
        var buffer = new ArrayBufferWriter<byte>(1 << 20);
        Text(buffer, "HIERARCHY\n");
        var written = new List<int>();
        for (var j = 0; j < skeleton.Count; j++)
        {
            if (skeleton.Parents[j] < 0)
            {
                WriteJoint(buffer, skeleton, j, 0, moves, turns, unitScale, written);
            }
        }

        Text(buffer, $"MOTION\nFrames: {motion.FrameCount}\nFrame Time: {1 / motion.FrameRate:0.##########}\n");
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var r = motion.RotationsAt(f);
            var t = motion.TranslationsAt(f);
            foreach (var j in written)
            {
                if (moves[j])
                {
                    for (var a = 0; a < 3; a++)
                    {
                        Number(buffer, t[j][a] / unitScale);
                    }
                }

                var (x, y, z) = Rotations.ToEuler(turns, r[j]);
                Number(buffer, x * (180 / Math.PI));
                Number(buffer, y * (180 / Math.PI));
                Number(buffer, z * (180 / Math.PI));
            }

            Text(buffer, "\n");
            if (buffer.WrittenCount > 1 << 19)
            {
                stream.Write(buffer.WrittenSpan);
                buffer.ResetWrittenCount();
            }
        }

        stream.Write(buffer.WrittenSpan);
    }

    private static bool[] MovingJoints(Motion motion)
    {
        var s = motion.Skeleton;
        var moves = new bool[s.Count];
        for (var k = 0; k < motion.Translations.Length; k++)
        {
            var j = k % s.Count;
            moves[j] = moves[j] || s.Parents[j] < 0 || (motion.Translations[k] - s[j].Offset).LengthSquared() > 1e-12f;
        }

        return moves;
    }

    private static void WriteJoint(
        ArrayBufferWriter<byte> buffer,
        Skeleton s,
        int j,
        int depth,
        bool[] moves,
        RotationOrder order,
        double unit,
        List<int> written
    )
    {
        written.Add(j);
        var pad = new string('\t', depth);
        var name = string.Join('_', s[j].Name.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        Text(buffer, $"{pad}{(depth == 0 ? "ROOT" : "JOINT")} {name}\n{pad}{{\n");
        // A root's place is in its channels alone: some readers add the OFFSET to them, others let them replace it.
        Offset(buffer, pad + "\t", depth == 0 ? Vector3.Zero : s[j].Offset, unit);
        var rotations = string.Concat(order.ToString().Select(c => $" {c}rotation"));
        Text(buffer, moves[j] ? $"{pad}\tCHANNELS 6 Xposition Yposition Zposition{rotations}\n" : $"{pad}\tCHANNELS 3{rotations}\n");
        var leaf = true;
        foreach (var c in s.Children(j))
        {
            leaf = false;
            WriteJoint(buffer, s, c, depth + 1, moves, order, unit, written);
        }

        if (leaf)
        {
            Text(buffer, $"{pad}\tEnd Site\n{pad}\t{{\n");
            Offset(buffer, pad + "\t\t", s[j].EndSite ?? Vector3.Zero, unit);
            Text(buffer, $"{pad}\t}}\n");
        }

        Text(buffer, $"{pad}}}\n");
    }

    private static void Offset(ArrayBufferWriter<byte> buffer, string pad, Vector3 o, double unit)
    {
        Text(buffer, pad + "OFFSET ");
        Number(buffer, o.X / unit);
        Number(buffer, o.Y / unit);
        Number(buffer, o.Z / unit);
        Text(buffer, "\n");
    }

    private static void Text(ArrayBufferWriter<byte> buffer, string text) => Encoding.UTF8.GetBytes(text, buffer);

    private static void Number(ArrayBufferWriter<byte> buffer, double value)
    {
        var span = buffer.GetSpan(48);
        if (!Utf8Formatter.TryFormat(value == 0 ? 0 : value, span, out var n, new StandardFormat('F', 6)))
        {
            throw new InvalidOperationException("A number is too long to write.");
        }

        span[n] = (byte)' ';
        buffer.Advance(n + 1);
    }
}
