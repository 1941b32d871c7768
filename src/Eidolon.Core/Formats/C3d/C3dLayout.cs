namespace Eidolon.Core.Formats.C3d;

/// <summary>Where the samples of a C3D file lie and how many there are, checked against the file's length.</summary>
internal sealed record C3dLayout
{
    public int Points { get; private init; }

    public int Frames { get; private init; }

    public int FirstFrame { get; private init; }

    public double FrameRate { get; private init; }

    public bool Real { get; private init; }

    public float Scale { get; private init; }

    public int DataStart { get; private init; }

    public int AnalogPerFrame { get; private init; }

    public int AnalogSamplesPerFrame { get; private init; }

    public int FrameBytes { get; private init; }

    public IReadOnlyList<string> Warnings { get; private init; } = [];

    public static C3dLayout From(C3dBytes data, IReadOnlyDictionary<string, IReadOnlyList<C3dParameter>> groups, string file)
    {
        float? Value(string group, string name) => C3dReader.Find(groups, group, name)?.Numbers is { Length: > 0 } n ? n[0] : null;
        var points = (int)(ushort)data.I16(2);
        if (
            Value("POINT", "USED") is { } used
            && (int)used != points
            && (int)(ushort)(short)Math.Clamp(used, short.MinValue, short.MaxValue) != points
        )
        {
            throw new InvalidInputException(file, "POINT:USED", $"says {used} points, the header says {points}");
        }

        var scale = data.F32(12);
        if (!float.IsFinite(scale) || scale == 0)
        {
            scale = Value("POINT", "SCALE") ?? 0;
        }

        if (!float.IsFinite(scale) || scale == 0)
        {
            throw new InvalidInputException(file, "byte 12", "the scale factor is not a usable number");
        }

        double rate = data.F32(20);
        if (!(rate > 0) || !double.IsFinite(rate))
        {
            rate = Value("POINT", "RATE") ?? 0;
        }

        rate = FrameRates.Usable(rate, file, "byte 20");

        var (first, frames) = FrameRange(data, groups, file);
        var analogPerFrame = (int)(ushort)data.I16(4);
        var analogSamples = (int)(ushort)data.I16(18);
        if (analogSamples == 0 || analogPerFrame % Math.Max(1, analogSamples) != 0)
        {
            analogSamples = analogPerFrame > 0 ? 1 : 0;
        }

        var dataBlock = (int)(ushort)data.I16(16);
        if (dataBlock < 2)
        {
            dataBlock = (int)(Value("POINT", "DATA_START") ?? 0);
        }

        var start = ((long)dataBlock - 1) * 512;
        var real = scale < 0;
        var frameBytes = ((points * 4L) + analogPerFrame) * (real ? 4 : 2);
        if (start < 512 || start > data.Length)
        {
            throw new InvalidInputException(file, "byte 16", $"the data are said to start in block {dataBlock}, which is not there");
        }

        if (frameBytes == 0)
        {
            throw new InvalidInputException(file, "byte 2", "the file announces neither markers nor analog channels");
        }

        var have = data.Length - start;
        if (frames * frameBytes > have)
        {
            throw new InvalidInputException(
                file,
                $"byte {data.Length}",
                $"{frames} frames of {frameBytes} bytes are announced, the file ends in frame {have / frameBytes}"
            );
        }

        var warnings = new List<string>();
        var padded = ((frames * frameBytes) + 511) / 512 * 512;
        if (have - padded >= Math.Max(frameBytes, 512))
        {
            warnings.Add($"{frames} frames are announced, about {(have - padded) / frameBytes} more follow and were not read");
        }

        return new C3dLayout
        {
            Points = points,
            Frames = (int)frames,
            FirstFrame = first,
            FrameRate = FrameRates.Snap(rate),
            Real = real,
            Scale = MathF.Abs(scale),
            DataStart = (int)start,
            AnalogPerFrame = analogPerFrame,
            AnalogSamplesPerFrame = analogSamples,
            FrameBytes = (int)frameBytes,
            Warnings = warnings,
        };
    }

    /// <summary>The header holds 16-bit frame numbers; longer takes say more in TRIAL or POINT parameters.</summary>
    private static (int First, long Frames) FrameRange(
        C3dBytes data,
        IReadOnlyDictionary<string, IReadOnlyList<C3dParameter>> groups,
        string file
    )
    {
        long first = (ushort)data.I16(6),
            last = (ushort)data.I16(8);
        long? Wide(string name) =>
            C3dReader.Find(groups, "TRIAL", name)?.Numbers is { Length: >= 2 } n
                ? (ushort)(short)n[0] + ((long)(ushort)(short)n[1] << 16)
                : null;
        if (Wide("ACTUAL_START_FIELD") is { } s && Wide("ACTUAL_END_FIELD") is { } e && e >= s && (last == 65535 || e > 65535))
        {
            (first, last) = (s, e);
        }
        else if (last == 65535 && C3dReader.Find(groups, "POINT", "LONG_FRAMES")?.Numbers is { Length: > 0 } l && l[0] > 0)
        {
            last = first + (long)l[0] - 1;
        }
        else if (last == 65535 && C3dReader.Find(groups, "POINT", "FRAMES") is { Type: 4, Numbers.Length: > 0 } p && p.Numbers[0] > 65535)
        {
            last = first + (long)p.Numbers[0] - 1;
        }

        var frames = last - first + 1;
        if (frames < 1 || frames > int.MaxValue || first > int.MaxValue)
        {
            throw new InvalidInputException(file, "byte 6", $"frames {first} to {last} are announced; at least one is needed");
        }

        return ((int)first, frames);
    }
}
