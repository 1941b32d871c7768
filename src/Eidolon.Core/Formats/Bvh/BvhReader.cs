using System.Numerics;
using System.Runtime.CompilerServices;
using System.Text;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Bvh;

/// <summary>Reads BVH text: any channel order, six-channel joints, several roots, CRLF, tabs.</summary>
public static class BvhReader
{
    private const int MaximumJoints = 20000;
    private const int MaximumDepth = 512;

    /// <summary>Reads a motion in metres, Y up.</summary>
    /// <param name="unitScale">Metres per unit of the file; BVH carries none, centimetres are usual.</param>
    public static Motion Read(byte[] bytes, string file, double unitScale = 0.01)
    {
        var scanner = new BvhScanner(Utf8Mark.Without(bytes), file);
        var joints = new List<BvhJoint>();
        ReadHierarchy(ref scanner, joints, unitScale);
        scanner.Expect("Frames:");
        var announced = scanner.Number("the number of frames");
        if (announced < 1 || announced != Math.Floor(announced) || announced > int.MaxValue)
        {
            throw scanner.Error($"{announced} frames are announced; at least one whole frame is needed");
        }

        scanner.Expect("Frame");
        scanner.Expect("Time:");
        var frameTime = scanner.Number("the frame time");
        var rate = 1 / frameTime;
        if (!FrameRates.IsUsable(rate))
        {
            throw scanner.Error($"a frame time of {frameTime} s is none that a recording has");
        }

        var channels = joints.Sum(j => j.Channels.Count);
        var frames = (long)announced;
        // Every number takes at least one digit and one separator: a larger claim cannot be true and must not be allocated.
        if (frames * Math.Max(1, channels) * 2 > bytes.LongLength + 2)
        {
            throw new InvalidInputException(
                file,
                $"line {scanner.Line}",
                $"{frames} frames of {channels} numbers are announced, the file is too short for that"
            );
        }

        new ReadBudget(bytes.LongLength, file).Want(frames, joints.Count, ReadBudget.JointBytes, $"line {scanner.Line}");
        var skeleton = BuildSkeleton(joints);
        var motion = ReadFrames(ref scanner, joints, skeleton, (int)frames, FrameRates.Snap(rate), unitScale, out var warnings);
        warnings.AddRange(ImplausibleHeight(skeleton, unitScale));
        return new Motion(skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, motion.Translations) { Warnings = warnings };
    }

    private static void ReadHierarchy(ref BvhScanner scanner, List<BvhJoint> joints, double scale)
    {
        scanner.Expect("HIERARCHY");
        var stack = new Stack<int>();
        var inEndSite = false;
        while (true)
        {
            var word = scanner.Word();
            if (BvhScanner.Is(word, "MOTION") && stack.Count == 0 && joints.Count > 0)
            {
                break;
            }

            if (word.IsEmpty)
            {
                throw scanner.Error("the file ends inside the hierarchy");
            }

            if (BvhScanner.Is(word, "ROOT") || BvhScanner.Is(word, "JOINT"))
            {
                var isRoot = BvhScanner.Is(word, "ROOT");
                if (isRoot != (stack.Count == 0) || inEndSite)
                {
                    throw scanner.Error(isRoot ? "a ROOT stands inside another joint" : "a JOINT stands outside a ROOT");
                }

                var name = scanner.RestOfLine();
                if (name.EndsWith('{'))
                {
                    throw scanner.Error("'{' must stand on a line of its own after the joint's name");
                }

                if (name.Length == 0 || name.Any(char.IsControl))
                {
                    throw scanner.Error("a joint has no readable name");
                }

                if (joints.Any(j => j.Name == name))
                {
                    throw scanner.Error($"two joints are called '{name}'");
                }

                joints.Add(new BvhJoint(name, stack.Count == 0 ? -1 : stack.Peek()));
                scanner.Expect("{");
                stack.Push(joints.Count - 1);
                if (joints.Count > MaximumJoints || stack.Count > MaximumDepth)
                {
                    throw scanner.Error("too many joints");
                }
            }
            else if (BvhScanner.Is(word, "OFFSET"))
            {
                if (stack.Count == 0)
                {
                    throw scanner.Error("an OFFSET stands outside a joint");
                }

                var offset = new Vector3(
                    (float)(scanner.Number("an offset") * scale),
                    (float)(scanner.Number("an offset") * scale),
                    (float)(scanner.Number("an offset") * scale)
                );
                var joint = joints[stack.Peek()];
                joints[stack.Peek()] = inEndSite ? joint with { EndSite = offset } : joint with { Offset = offset };
            }
            else if (BvhScanner.Is(word, "CHANNELS"))
            {
                if (stack.Count == 0 || inEndSite || joints[stack.Peek()].Channels.Count > 0)
                {
                    throw scanner.Error("CHANNELS are out of place");
                }

                ReadChannels(ref scanner, joints[stack.Peek()]);
            }
            else if (BvhScanner.Is(word, "End"))
            {
                if (stack.Count == 0 || inEndSite)
                {
                    throw scanner.Error("an End Site is out of place");
                }

                scanner.Expect("Site");
                scanner.Expect("{");
                inEndSite = true;
            }
            else if (BvhScanner.Is(word, "}"))
            {
                if (inEndSite)
                {
                    inEndSite = false;
                }
                else if (!stack.TryPop(out _))
                {
                    throw scanner.Error("'}' without a joint");
                }
            }
            else
            {
                throw scanner.Error($"{BvhScanner.Show(word)} is not known here");
            }
        }
    }

    private static void ReadChannels(ref BvhScanner scanner, BvhJoint joint)
    {
        var count = scanner.Number("the number of channels");
        if (count is < 0 or > 6 || count != Math.Floor(count))
        {
            throw scanner.Error($"a joint cannot have {count} channels");
        }

        for (var i = 0; i < (int)count; i++)
        {
            var word = Encoding.ASCII.GetString(scanner.Word());
            var axis = word.Length > 0 ? char.ToUpperInvariant(word[0]) - 'X' : -1;
            var kind = word.Length > 1 ? word[1..].ToLowerInvariant() : string.Empty;
            if (axis is < 0 or > 2 || kind is not ("position" or "rotation"))
            {
                throw scanner.Error($"'{(word.Length > 24 ? word[..24] : word)}' is not a channel");
            }

            var channel = kind == "position" ? axis : axis + 3;
            if (joint.Channels.Contains(channel))
            {
                throw scanner.Error($"channel {word} is listed twice");
            }

            joint.Channels.Add(channel);
        }
    }

    private static Skeleton BuildSkeleton(List<BvhJoint> joints)
    {
        var parents = joints.Select(j => j.Parent).ToHashSet();
        return new Skeleton(
            joints.Select((j, i) => new Joint(j.Name, j.Parent, j.Offset) { EndSite = parents.Contains(i) ? null : j.EndSite })
        );
    }

    /// <summary>The hot loop: compiled in full at once, since most files are read by a process that has just started.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static Motion ReadFrames(
        ref BvhScanner scanner,
        List<BvhJoint> joints,
        Skeleton skeleton,
        int frames,
        double rate,
        double scale,
        out List<string> warnings
    )
    {
        var n = joints.Count;
        var motion = new Motion(skeleton, rate, frames);
        var channels = joints.SelectMany(j => j.Channels).ToArray();
        var counts = joints.Select(j => j.Channels.Count).ToArray();
        var offsets = joints.Select(j => j.Offset).ToArray();
        var row = new double[channels.Length];
        for (var f = 0; f < frames; f++)
        {
            if (!scanner.NextRow())
            {
                throw scanner.Error($"{frames} frames are announced, the file ends after {f}");
            }

            if (!scanner.TryPlainRow(row))
            {
                ReadRow(ref scanner, row, f);
            }

            var c = 0;
            for (var j = 0; j < n; j++)
            {
                var q = Quaternion.Identity;
                var t = offsets[j];
                for (var k = 0; k < counts[j]; k++, c++)
                {
                    var v = row[c];
                    switch (channels[c])
                    {
                        case 0:
                            t.X = (float)(v * scale);
                            break;
                        case 1:
                            t.Y = (float)(v * scale);
                            break;
                        case 2:
                            t.Z = (float)(v * scale);
                            break;
                        default:
                            q = v == 0 ? q : q * About(channels[c], v);
                            break;
                    }
                }

                motion.Rotations[(f * n) + j] = Quaternion.Normalize(q);
                motion.Translations[(f * n) + j] = t;
            }
        }

        warnings = [];
        CheckRest(ref scanner, channels.Length, frames, warnings);
        return motion;
    }

    /// <summary>The careful way through a row: exponents, many digits, and a clear word about anything wrong.</summary>
    private static void ReadRow(ref BvhScanner scanner, double[] row, int frame)
    {
        for (var c = 0; c < row.Length; c++)
        {
            if (!scanner.NextInRow(out row[c]))
            {
                throw scanner.Error($"frame {frame} has {c} numbers, {row.Length} are needed");
            }
        }

        if (scanner.NextInRow(out _))
        {
            throw scanner.Error($"frame {frame} has more than {row.Length} numbers");
        }
    }

    /// <summary>A turn in degrees about the axis of a rotation channel (3 X, 4 Y, 5 Z).</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static Quaternion About(int channel, double degrees)
    {
        var (s, c) = MathF.SinCos((float)(degrees * (Math.PI / 360)));
        return channel switch
        {
            3 => new Quaternion(s, 0, 0, c),
            4 => new Quaternion(0, s, 0, c),
            _ => new Quaternion(0, 0, s, c),
        };
    }

    /// <summary>Whole rows beyond the announced ones are told; anything else there is noise and makes the file invalid.</summary>
    private static void CheckRest(ref BvhScanner scanner, int channels, int frames, List<string> warnings)
    {
        var more = 0;
        while (scanner.NextRow())
        {
            var c = 0;
            while (scanner.NextInRow(out _))
            {
                c++;
            }

            if (c != channels)
            {
                throw scanner.Error($"a row beyond the announced frames has {c} numbers, {channels} are needed");
            }

            more++;
        }

        if (more > 0)
        {
            warnings.Add($"{frames} frames are announced, {more} more follow and were not read");
        }
    }

    private static IEnumerable<string> ImplausibleHeight(Skeleton skeleton, double scale)
    {
        float low = float.MaxValue,
            high = float.MinValue;
        Vector3 min = new(float.MaxValue),
            max = new(float.MinValue);
        for (var j = 0; j < skeleton.Count; j++)
        {
            min = Vector3.Min(min, skeleton.RestPositions[j]);
            max = Vector3.Max(max, skeleton.RestPositions[j]);
        }

        (low, high) = (0, MathF.Max(max.X - min.X, MathF.Max(max.Y - min.Y, max.Z - min.Z)));
        var size = high - low;
        if (skeleton.Count < 8 || size <= 1e-9f || size is > 0.6f and < 3.2f)
        {
            yield break;
        }

        var likely = new[] { 1, 0.1, 0.01, 0.001, 0.0254, 0.3048 }.OrderBy(s => Math.Abs(Math.Log(size / scale * s / 1.7))).First();
        yield return $"the figure is {size:0.###} m across at {scale} m per unit, which no person is; {likely} m per unit would make it {size / scale * likely:0.##} m";
    }

    private sealed record BvhJoint(string Name, int Parent)
    {
        public Vector3 Offset { get; init; }

        public Vector3? EndSite { get; init; }

        /// <summary>0–2 position X Y Z, 3–5 rotation X Y Z, in the file's order.</summary>
        public List<int> Channels { get; } = [];
    }
}
