using System.Numerics;
using System.Text;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Formats.C3d;

/// <summary>Reads C3D: three processors, integer and real data, long takes, more than 255 labels, analog kept.</summary>
/// <remarks>The C3D File Format User Guide (c3d.org), 2008.</remarks>
public static class C3dReader
{
    /// <summary>Reads a whole file.</summary>
    /// <exception cref="InvalidInputException">The file is damaged or lies about itself; says at which byte.</exception>
    public static C3dDocument Read(byte[] bytes, string file)
    {
        if (bytes.Length < 1024 || bytes[1] != 0x50)
        {
            throw new InvalidInputException(
                file,
                "byte 1",
                bytes.Length < 1024 ? "too short for a C3D file (two blocks of 512 bytes are the least)" : "the C3D mark 0x50 is missing"
            );
        }

        var parameterStart = (bytes[0] - 1) * 512;
        if (parameterStart < 512 || parameterStart + 4 > bytes.Length)
        {
            throw new InvalidInputException(file, "byte 0", $"the parameters are said to start in block {bytes[0]}, which is not there");
        }

        int processor = bytes[parameterStart + 3];
        if (processor is < 84 or > 86)
        {
            throw new InvalidInputException(file, $"byte {parameterStart + 3}", $"processor type {processor} is not known (84, 85 or 86)");
        }

        var data = new C3dBytes(bytes, file, processor);
        var groups = C3dParameters.Read(data, parameterStart, file);
        var layout = C3dLayout.From(data, groups, file);
        return ReadData(data, layout, groups, file);
    }

    [System.Runtime.CompilerServices.MethodImpl(System.Runtime.CompilerServices.MethodImplOptions.AggressiveOptimization)]
    private static C3dDocument ReadData(
        C3dBytes data,
        C3dLayout layout,
        Dictionary<string, IReadOnlyList<C3dParameter>> groups,
        string file
    )
    {
        var warnings = new List<string>(layout.Warnings);
        var names = Labels(groups, layout.Points, warnings);
        var raw = new Vector3[layout.Frames * layout.Points];
        var analog = new float[(long)layout.Frames * layout.AnalogPerFrame];
        var size = layout.Real ? 4 : 2;
        for (var f = 0; f < layout.Frames; f++)
        {
            var at = layout.DataStart + (f * layout.FrameBytes);
            for (var p = 0; p < layout.Points; p++, at += 4 * size)
            {
                var residual = layout.Real ? data.F32(at + 12) : data.I16(at + 6);
                if (residual < 0)
                {
                    raw[(f * layout.Points) + p] = MarkerTake.Hidden;
                    continue;
                }

                var v = layout.Real
                    ? new Vector3(data.F32(at), data.F32(at + 4), data.F32(at + 8))
                    : new Vector3(data.I16(at), data.I16(at + 2), data.I16(at + 4)) * layout.Scale;
                if (
                    !float.IsFinite(v.X + v.Y + v.Z)
                    || !float.IsFinite(residual)
                    || MathF.Abs(v.X) + MathF.Abs(v.Y) + MathF.Abs(v.Z) > 1e12f
                )
                {
                    throw new InvalidInputException(
                        file,
                        $"byte {at}",
                        $"frame {f}, marker {names[p]}: not a usable number, though the marker is said to be seen"
                    );
                }

                raw[(f * layout.Points) + p] = v;
            }

            for (var a = 0; a < layout.AnalogPerFrame; a++, at += size)
            {
                analog[((long)f * layout.AnalogPerFrame) + a] = layout.Real ? data.F32(at) : data.I16(at);
            }
        }

        var units = Find(groups, "POINT", "UNITS")?.Texts.FirstOrDefault()?.Trim() ?? string.Empty;
        if (!Core.Formats.Units.TryMetres(units, out var metres))
        {
            metres = GuessUnit(raw, out units);
            warnings.Add($"the file names no usable unit; its size suggests {units}");
        }

        var up = UpAxis(groups, raw, metres, warnings);
        for (var i = 0; i < raw.Length; i++)
        {
            raw[i] = C3dAxes.ToInside(raw[i], up) * (float)metres;
        }

        var take = new MarkerTake(names, layout.FrameRate, layout.Frames, raw) { FirstFrame = layout.FirstFrame, Warnings = warnings };
        return new C3dDocument(take)
        {
            Groups = groups,
            Analog = analog,
            AnalogSamplesPerFrame = layout.AnalogSamplesPerFrame,
            MetresPerUnit = metres,
            Units = units,
            UpAxis = up,
            AnalogChannels = layout.AnalogSamplesPerFrame > 0 ? layout.AnalogPerFrame / layout.AnalogSamplesPerFrame : 0,
        };
    }

    internal static C3dParameter? Find(IReadOnlyDictionary<string, IReadOnlyList<C3dParameter>> groups, string group, string parameter) =>
        groups.TryGetValue(group, out var g) ? g.FirstOrDefault(p => p.Name == parameter) : null;

    /// <summary>LABELS, LABELS2, … in a row; empty or repeated ones get a number.</summary>
    private static string[] Labels(Dictionary<string, IReadOnlyList<C3dParameter>> groups, int points, List<string> warnings)
    {
        var labels = new List<string>();
        for (var k = 1; Find(groups, "POINT", k == 1 ? "LABELS" : $"LABELS{k}") is { } p; k++)
        {
            labels.AddRange(p.Texts);
        }

        if (labels.Count < points)
        {
            warnings.Add($"{points} points but only {labels.Count} labels; the rest are numbered");
        }

        var used = new HashSet<string>(StringComparer.Ordinal);
        var names = new string[points];
        for (var i = 0; i < points; i++)
        {
            var name = i < labels.Count ? labels[i].Trim() : string.Empty;
            name = name.Length == 0 ? $"*{i + 1}" : name;
            if (!used.Add(name))
            {
                var unique = $"{name}_{i + 1}";
                warnings.Add($"the label '{name}' is used twice; one is read as '{unique}'");
                name = unique;
                used.Add(name);
            }

            names[i] = name;
        }

        return names;
    }

    private static string UpAxis(
        Dictionary<string, IReadOnlyList<C3dParameter>> groups,
        Vector3[] raw,
        double metres,
        List<string> warnings
    )
    {
        var said = Find(groups, "POINT", "Y_SCREEN")?.Texts.FirstOrDefault()?.Trim().ToUpperInvariant();
        if (said is { Length: > 0 } && said.TrimStart('+', '-') is "X" or "Y" or "Z")
        {
            return said[0] == '-' ? said : said.TrimStart('+');
        }

        // Nothing said: a performer stands on the floor, so the upright axis starts near zero and reaches a person's height.
        var best = "Z";
        var bestScore = double.MaxValue;
        foreach (var axis in new[] { 2, 1 })
        {
            double min = double.MaxValue,
                max = double.MinValue;
            foreach (var p in raw)
            {
                if (MarkerTake.Seen(p))
                {
                    min = Math.Min(min, p[axis] * metres);
                    max = Math.Max(max, p[axis] * metres);
                }
            }

            var score = Math.Abs(min - 0.03) + (Math.Abs(max - 1.8) * 0.5);
            if (score < bestScore)
            {
                (bestScore, best) = (score, axis == 2 ? "Z" : "Y");
            }
        }

        warnings.Add($"the file does not say which axis points up; {best} looks right");
        return best;
    }

    private static double GuessUnit(Vector3[] raw, out string unit)
    {
        float max = 0;
        foreach (var p in raw)
        {
            if (MarkerTake.Seen(p))
            {
                max = MathF.Max(max, MathF.Max(MathF.Abs(p.X), MathF.Max(MathF.Abs(p.Y), MathF.Abs(p.Z))));
            }
        }

        unit =
            max > 500 ? "mm"
            : max > 30 ? "cm"
            : "m";
        return max > 500 ? 0.001
            : max > 30 ? 0.01
            : 1;
    }
}
