using System.Numerics;
using System.Text.Json;
using Eidolon.Core.Skeletons;
using SharpGLTF.Schema2;
using SharpGLTF.Validation;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>Reads glTF 2.0: skins, any scene's nodes, sparse accessors, STEP, LINEAR and CUBICSPLINE, morph weights.</summary>
public static class GltfReader
{
    /// <summary>Opens a GLB or glTF; every kind of damage becomes an <see cref="InvalidInputException"/>.</summary>
    /// <param name="file">Its name, for messages and for the kind.</param>
    /// <param name="folder">Where the buffers of a .gltf may lie beside it; null where only embedded ones are read.</param>
    public static ModelRoot Open(byte[] bytes, string file, string? folder = null)
    {
        try
        {
            if (Path.GetExtension(file).Equals(".gltf", StringComparison.OrdinalIgnoreCase) && !GltfContainer.IsBinary(bytes))
            {
                return GltfText.Open(bytes, file, folder);
            }

            GltfGuard.Check(GltfGuard.JsonOf(bytes, file), bytes.LongLength, file);
            return ModelRoot.ParseGLB(bytes, new ReadSettings { Validation = ValidationMode.TryFix });
        }
        catch (Exception e) when (IsDamage(e))
        {
            throw new InvalidInputException(file, "glTF", e.Message.Split('\n')[0], e);
        }
    }

    /// <summary>The same file as one GLB: text with its buffers packed in; a GLB as it is.</summary>
    public static byte[] Packed(byte[] bytes, string file, string? folder = null)
    {
        if (GltfContainer.IsBinary(bytes))
        {
            return bytes;
        }

        using var packed = new MemoryStream();
        Open(bytes, file, folder).WriteGLB(packed);
        return packed.ToArray();
    }

    /// <param name="folder">Where the buffers of a .gltf may lie beside it; null where only embedded ones are read.</param>
    public static Motion Read(byte[] bytes, string file, string? folder = null) =>
        ReadMotion(GltfBindingOf(Open(bytes, file, folder), file), file, GltfText.Size(bytes, folder));

    /// <summary>Bytes of a file on this machine with the buffers that may be its own.</summary>
    public static long Size(byte[] bytes, string path) => GltfText.Size(bytes, InputFile.FolderOf(path));

    /// <summary>Finds the skeleton of a file and binds its nodes to it.</summary>
    /// <exception cref="InvalidInputException">There is no skeleton in it.</exception>
    public static GltfBinding GltfBindingOf(ModelRoot model, string file)
    {
        try
        {
            return GltfBinding.Create(model, file);
        }
        catch (Exception e) when (IsDamage(e))
        {
            throw new InvalidInputException(file, "nodes", e.Message.Split('\n')[0], e);
        }
    }

    /// <summary>The first animation, sampled at its own key rate; one rest frame when there is none.</summary>
    /// <param name="bytes">Size of the file with its buffers: what it may cost is measured by it.</param>
    public static Motion ReadMotion(GltfBinding binding, string file, long bytes)
    {
        var warnings = new List<string>(binding.Warnings);
        var animation = binding.Model.LogicalAnimations.FirstOrDefault(a => a.Channels.Any());
        if (binding.Model.LogicalAnimations.Count > 1)
        {
            warnings.Add($"the file holds {binding.Model.LogicalAnimations.Count} animations; '{animation?.Name}' is read");
        }

        try
        {
            return animation is null ? RestMotion(binding, warnings) : Sample(binding, animation, warnings, file, bytes);
        }
        catch (Exception e) when (IsDamage(e))
        {
            throw new InvalidInputException(file, "animation", e.Message.Split('\n')[0], e);
        }
    }

    /// <summary>What a damaged file makes the library throw; anything else is a fault of ours and must be seen.</summary>
    private static bool IsDamage(Exception e) =>
        e
            is ModelException
                or JsonException
                or IOException
                or InvalidOperationException
                or ArgumentException
                or FormatException
                or IndexOutOfRangeException
                or NullReferenceException
                or KeyNotFoundException
                or NotSupportedException
                or OverflowException
                or InvalidCastException
                or NotImplementedException;

    private static Motion RestMotion(GltfBinding binding, List<string> warnings)
    {
        var s = binding.Skeleton;
        warnings.Add("the file holds no animation; the rest pose is one frame");
        var still = Motion.AtRest(s, 30, 1);
        return new Motion(s, still.FrameRate, still.FrameCount, still.Rotations, still.Translations) { Warnings = warnings };
    }

    private static Motion Sample(GltfBinding binding, Animation animation, List<string> warnings, string file, long bytes)
    {
        var times = KeyTimes(animation);
        foreach (var t in times)
        {
            if (!float.IsFinite(t) || t < 0)
            {
                throw new InvalidInputException(file, $"animation '{animation.Name}'", $"a key stands at time {t}");
            }
        }

        var rate = FrameRates.Usable(Rate(times, animation), file, $"animation '{animation.Name}'");
        var start = times.Length == 0 ? 0 : Math.Round(times[0] * rate) / rate;
        var end = times.Length == 0 ? 0 : times[^1];
        var wanted = Math.Round((end - start) * rate) + 1;
        if (wanted > (times.Length * 40.0) + 36000)
        {
            throw new InvalidInputException(
                file,
                $"animation '{animation.Name}'",
                $"{times.Length} keys are spread over {end - start:0} s, which would be {wanted:0} frames"
            );
        }

        var frames = (int)wanted;
        new ReadBudget(bytes, file).Want(frames, binding.Skeleton.Count, ReadBudget.JointBytes, $"animation '{animation.Name}'");
        var s = binding.Skeleton;
        var motion = new Motion(s, rate, frames);
        for (var j = 0; j < s.Count; j++)
        {
            var node = binding.Nodes[j];
            var rest = node.LocalTransform.GetDecomposed();
            var rotation = animation.FindRotationChannel(node)?.GetRotationSampler()?.CreateCurveSampler(true);
            var translation = animation.FindTranslationChannel(node)?.GetTranslationSampler()?.CreateCurveSampler(true);
            if (animation.FindScaleChannel(node) is not null)
            {
                warnings.Add($"the scale of node '{node.Name}' is animated; its rest scale is used");
            }

            for (var f = 0; f < frames; f++)
            {
                var t = (float)(start + (f / rate));
                var (q, p) = binding.FromNode(j, rotation?.GetPoint(t) ?? rest.Rotation, translation?.GetPoint(t) ?? rest.Translation);
                if (!float.IsFinite(q.X + q.Y + q.Z + q.W) || !float.IsFinite(p.X + p.Y + p.Z))
                {
                    throw new InvalidInputException(
                        file,
                        $"animation '{animation.Name}', node '{node.Name}'",
                        $"frame {f} holds no usable number"
                    );
                }

                motion.Rotations[(f * s.Count) + j] = q;
                motion.Translations[(f * s.Count) + j] = p;
            }
        }

        return new Motion(s, rate, frames, motion.Rotations, motion.Translations)
        {
            FirstFrame = (int)Math.Round(start * rate),
            Warnings = warnings,
            Morphs = Morphs(binding.Model, animation, rate, start, frames),
        };
    }

    private static float[] KeyTimes(Animation animation)
    {
        var all = new SortedSet<float>();
        foreach (var channel in animation.Channels)
        {
            IEnumerable<float> keys = channel.TargetNodePath switch
            {
                PropertyPath.rotation => Keys(channel.GetRotationSampler()),
                PropertyPath.translation => Keys(channel.GetTranslationSampler()),
                PropertyPath.scale => Keys(channel.GetScaleSampler()),
                PropertyPath.weights => Keys(channel.GetMorphSampler()),
                _ => [],
            };
            all.UnionWith(keys);
        }

        return [.. all];
    }

    private static IEnumerable<float> Keys<T>(IAnimationSampler<T>? sampler) =>
        sampler is null ? []
        : sampler.InterpolationMode == AnimationInterpolationMode.CUBICSPLINE ? sampler.GetCubicKeys().Select(k => k.Key)
        : sampler.GetLinearKeys().Select(k => k.Key);

    /// <summary>The rate our own files state, otherwise the one most key spacings agree on.</summary>
    private static double Rate(float[] times, Animation animation)
    {
        if (
            animation.Extras is System.Text.Json.Nodes.JsonObject extras
            && extras["frameRate"] is { } said
            && said.GetValueKind() == JsonValueKind.Number
            && said.GetValue<double>() is > 0.1 and < 100000 and var r
        )
        {
            return r;
        }

        if (times.Length < 2)
        {
            return 30;
        }

        var steps = new double[times.Length - 1];
        for (var i = 0; i < steps.Length; i++)
        {
            steps[i] = times[i + 1] - times[i];
        }

        Array.Sort(steps);
        var median = steps[steps.Length / 2];
        // The mean of the steps near the median is finer than any single float32 difference.
        var near = steps.Where(x => Math.Abs(x - median) < median * 0.1).Average();
        var rate = 1 / near;
        return rate < 4 ? 30
            : Math.Abs(rate - Math.Round(rate)) < 2e-3 * rate && FrameRates.Snap(rate) == rate ? Math.Round(rate)
            : FrameRates.Snap(rate);
    }

    private static Dictionary<string, float[]> Morphs(ModelRoot model, Animation animation, double rate, double start, int frames)
    {
        var result = new Dictionary<string, float[]>(StringComparer.Ordinal);
        foreach (var node in model.LogicalNodes.Where(n => n.Mesh is not null))
        {
            var curve = animation.FindMorphChannel(node)?.GetMorphSampler()?.CreateCurveSampler(true);
            if (curve is null)
            {
                continue;
            }

            var names = GltfContents.MorphNames(node.Mesh);
            for (var m = 0; m < names.Count; m++)
            {
                var values = new float[frames];
                for (var f = 0; f < frames; f++)
                {
                    var w = curve.GetPoint((float)(start + (f / rate)));
                    values[f] = m < w.Length ? w[m] : 0;
                }

                result.TryAdd(names[m], values);
            }
        }

        return result;
    }
}
