using System.Buffers.Text;
using System.Globalization;
using System.Text;
using Eidolon.Core.Optical;

namespace Eidolon.Core.Formats.Csv;

/// <summary>
/// 2D centroids as a table: a comment line with rate, cameras and frames, a header, then a row for each frame and camera that saw
/// something: frame, camera (both from 0), u, v, u, v … in pixels.
/// </summary>
public static class CentroidCsv
{
    private const string Mark = "# centroids";
    private const int MostCameras = 256;
    private const int MostFrames = 10_000_000;

    /// <summary>What a picture without a centroid takes in memory.</summary>
    private const int BytesOfPicture = 16;

    /// <summary>True when the bytes begin as such a table does.</summary>
    public static bool Is(ReadOnlySpan<byte> bytes) => bytes.StartsWith("# centroids"u8);

    /// <summary>Writes one row a dot: frame, camera, u, v.</summary>
    public static void Write(Stream stream, CentroidTake take)
    {
        stream.Write(
            Encoding.UTF8.GetBytes(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{Mark}, frameRate={take.FrameRate:R}, cameras={take.CameraCount}, frames={take.FrameCount}, units=px\nframe,camera,u,v\n"
                )
            )
        );
        var buffer = new byte[1 << 16];
        var at = 0;
        for (var f = 0; f < take.FrameCount; f++)
        {
            for (var c = 0; c < take.CameraCount; c++)
            {
                ReadOnlySpan<float> u = take.UAt(f, c),
                    v = take.VAt(f, c);
                if (u.Length == 0)
                {
                    continue;
                }

                Number(buffer, ref at, f);
                buffer[at++] = (byte)',';
                Number(buffer, ref at, c);
                for (var k = 0; k < u.Length; k++)
                {
                    buffer[at++] = (byte)',';
                    Number(buffer, ref at, u[k]);
                    buffer[at++] = (byte)',';
                    Number(buffer, ref at, v[k]);
                    if (at > buffer.Length - 128)
                    {
                        stream.Write(buffer, 0, at);
                        at = 0;
                    }
                }

                buffer[at++] = (byte)'\n';
            }
        }

        stream.Write(buffer, 0, at);
    }

    /// <summary>Reads the table; rows must be in order of frame and camera.</summary>
    /// <exception cref="InvalidInputException">Names the line and what is wrong in it.</exception>
    public static CentroidTake Read(ReadOnlySpan<byte> bytes, string file)
    {
        bytes = Utf8Mark.Without(bytes);
        var line = 1;
        var (rate, cameras, frames) = ReadMark(CsvLines.Next(ref bytes), file);
        line++;
        if (!CsvLines.Next(ref bytes).StartsWith("frame,camera"u8))
        {
            throw new InvalidInputException(file, "line 2", "a header 'frame,camera,u,v' is expected");
        }

        new ReadBudget(bytes.Length, file).Want(frames, cameras, BytesOfPicture, "line 1");
        var builder = new CentroidTakeBuilder(cameras, rate);
        var (us, vs) = (new List<float>(), new List<float>());
        long due = 0;
        while (bytes.Length > 0)
        {
            line++;
            var row = CsvLines.Next(ref bytes);
            if (row.IsEmpty)
            {
                continue;
            }

            var (f, c) = (Whole(ref row, file, line), Whole(ref row, file, line));
            if (f >= frames || c >= cameras)
            {
                throw new InvalidInputException(
                    file,
                    $"line {line}",
                    $"frame {f}, camera {c} is beyond the {frames} frames and {cameras} cameras that the first line announces"
                );
            }

            var here = (f * cameras) + c;
            if (here < due)
            {
                throw new InvalidInputException(file, $"line {line}", $"frame {f}, camera {c} comes twice or out of order");
            }

            for (; due < here; due++)
            {
                builder.Add([], []);
            }

            us.Clear();
            vs.Clear();
            while (!row.IsEmpty)
            {
                us.Add(Pixel(ref row, file, line));
                vs.Add(row.IsEmpty ? throw new InvalidInputException(file, $"line {line}", "a u has no v") : Pixel(ref row, file, line));
            }

            builder.Add([.. us], [.. vs]);
            due++;
        }

        for (; due < (long)frames * cameras; due++)
        {
            builder.Add([], []);
        }

        return builder.Build();
    }

    private static (double Rate, int Cameras, int Frames) ReadMark(ReadOnlySpan<byte> line, string file)
    {
        var parts = Encoding.UTF8.GetString(line).Split(',', StringSplitOptions.TrimEntries);
        string? Value(string key) =>
            parts.FirstOrDefault(p => p.StartsWith(key + "=", StringComparison.OrdinalIgnoreCase))?[(key.Length + 1)..];
        if (
            parts[0] != Mark
            || !double.TryParse(Value("frameRate"), NumberStyles.Float, CultureInfo.InvariantCulture, out var rate)
            || !int.TryParse(Value("cameras"), NumberStyles.None, CultureInfo.InvariantCulture, out var cameras)
            || cameras is < 1 or > MostCameras
            || !int.TryParse(Value("frames"), NumberStyles.None, CultureInfo.InvariantCulture, out var frames)
            || frames is < 1 or > MostFrames
        )
        {
            throw new InvalidInputException(
                file,
                "line 1",
                $"'{Mark}, frameRate=120, cameras=12, frames=7200' is expected (at most {MostCameras} cameras)"
            );
        }

        return (FrameRates.Usable(rate, file, "line 1"), cameras, frames);
    }

    private static int Whole(ref ReadOnlySpan<byte> row, string file, int line)
    {
        if (!Utf8Parser.TryParse(row, out int value, out var used) || value < 0)
        {
            throw new InvalidInputException(file, $"line {line}", "frame and camera must be whole numbers from 0");
        }

        Skip(ref row, used, file, line);
        return value;
    }

    private static float Pixel(ref ReadOnlySpan<byte> row, string file, int line)
    {
        if (!Utf8Parser.TryParse(row, out float value, out var used) || !(Math.Abs(value) < 1e6f))
        {
            throw new InvalidInputException(file, $"line {line}", "a pixel is not a number");
        }

        Skip(ref row, used, file, line);
        return value;
    }

    private static void Skip(ref ReadOnlySpan<byte> row, int used, string file, int line)
    {
        row = row[used..];
        if (row.IsEmpty)
        {
            return;
        }

        if (row[0] != (byte)',')
        {
            throw new InvalidInputException(file, $"line {line}", "a comma is expected between numbers");
        }

        row = row[1..];
    }

    private static void Number(byte[] buffer, ref int at, int value)
    {
        Utf8Formatter.TryFormat(value, buffer.AsSpan(at), out var n);
        at += n;
    }

    private static void Number(byte[] buffer, ref int at, float value)
    {
        Utf8Formatter.TryFormat(value, buffer.AsSpan(at), out var n, new System.Buffers.StandardFormat('F', 3));
        at += n;
    }
}
