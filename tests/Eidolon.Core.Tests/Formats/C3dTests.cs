using System.Buffers.Binary;
using System.Numerics;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Tests.Formats;

public sealed class C3dTests
{
    private static MarkerTake Take(int markers, int frames, int seed = 1)
    {
        var random = new Random(seed);
        var take = new MarkerTake([.. Enumerable.Range(0, markers).Select(i => $"M{i}")], 120, frames);
        for (var k = 0; k < take.Positions.Length; k++)
        {
            take.Positions[k] =
                random.Next(10) == 0
                    ? MarkerTake.Hidden
                    : new Vector3(random.NextSingle() * 4, random.NextSingle() * 2, random.NextSingle() * -3);
        }

        return take;
    }

    private static byte[] Write(C3dDocument document)
    {
        using var stream = new MemoryStream();
        C3dWriter.Write(stream, document);
        return stream.ToArray();
    }

    private static void Same(MarkerTake a, MarkerTake b, float tolerance)
    {
        Assert.Equal(a.Names, b.Names);
        Assert.Equal(a.FrameCount, b.FrameCount);
        for (var k = 0; k < a.Positions.Length; k++)
        {
            Assert.Equal(MarkerTake.Seen(a.Positions[k]), MarkerTake.Seen(b.Positions[k]));
            Assert.True(!MarkerTake.Seen(a.Positions[k]) || (a.Positions[k] - b.Positions[k]).Length() < tolerance);
        }
    }

    [Theory]
    [InlineData("mm", 0.001, "Y")]
    [InlineData("m", 1, "Z")]
    [InlineData("cm", 0.01, "X")]
    [InlineData("in", 0.0254, "-Z")]
    public void Units_and_axes_come_back(string unit, double metres, string up)
    {
        var take = Take(6, 50);
        var back = C3dReader.Read(
            Write(
                new C3dDocument(take)
                {
                    Units = unit,
                    MetresPerUnit = metres,
                    UpAxis = up,
                }
            ),
            "x.c3d"
        );
        Same(take, back.Take, 1e-5f);
        Assert.Equal((unit, up), (back.Units, back.UpAxis));
    }

    [Fact]
    public void More_than_255_labels_and_more_than_65535_frames_come_back()
    {
        Same(Take(300, 4), C3dReader.Read(Write(new C3dDocument(Take(300, 4))), "wide.c3d").Take, 1e-5f);
        Same(Take(1, 70000), C3dReader.Read(Write(new C3dDocument(Take(1, 70000))), "long.c3d").Take, 1e-5f);
    }

    [Fact]
    public void Parameters_and_analog_are_kept_on_the_way_through()
    {
        var analog = Enumerable.Range(0, 20 * 3 * 2).Select(i => i * 0.5f).ToArray();
        var groups = new Dictionary<string, IReadOnlyList<C3dParameter>>
        {
            ["QUAY"] = [C3dParameter.Text("WEATHER", "fog"), C3dParameter.Number("TIDE", 4, 1.25f, 2.5f)],
            ["ANALOG"] = [C3dParameter.Number("USED", 2, 2), C3dParameter.Text("LABELS", "pull", "push")],
        };
        var back = C3dReader.Read(
            Write(
                new C3dDocument(Take(3, 20))
                {
                    Analog = analog,
                    AnalogChannels = 2,
                    AnalogSamplesPerFrame = 3,
                    Groups = groups,
                }
            ),
            "x.c3d"
        );
        Assert.Equal(analog, back.Analog);
        Assert.Equal("fog", back.Groups["QUAY"].First(p => p.Name == "WEATHER").Texts[0]);
        Assert.Equal([1.25f, 2.5f], back.Groups["QUAY"].First(p => p.Name == "TIDE").Numbers);
        Assert.Equal(["pull", "push"], back.Groups["ANALOG"].First(p => p.Name == "LABELS").Texts);
    }

    [Theory]
    [InlineData(84, true)]
    [InlineData(85, true)]
    [InlineData(86, true)]
    [InlineData(84, false)]
    [InlineData(85, false)]
    [InlineData(86, false)]
    public void All_processors_and_both_number_kinds_are_read(int processor, bool real)
    {
        var c3d = C3dReader.Read(HandMade(processor, real), "old.c3d");
        Assert.Equal(["LHAND", "RHAND"], c3d.Take.Names);
        Assert.Equal(60, c3d.Take.FrameRate);
        Assert.Equal(5, c3d.Take.FirstFrame);
        Assert.True((c3d.Take[0, 0] - new Vector3(0.1f, 0.2f, -0.3f)).Length() < 1e-5f, c3d.Take[0, 0].ToString());
        Assert.False(MarkerTake.Seen(c3d.Take[1, 1]));
    }

    [Fact]
    public void A_claim_larger_than_the_file_is_refused_before_memory_is_taken()
    {
        var bytes = Write(new C3dDocument(Take(4, 30)));
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(2), 60000);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Throws<InvalidInputException>(() => C3dReader.Read(bytes, "huge.c3d"));
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 20 * bytes.Length);
    }

    [Fact]
    public void Seen_but_not_a_number_is_invalid()
    {
        var bytes = Write(new C3dDocument(new MarkerTake(["A"], 100, 2, [new Vector3(1), new Vector3(1)])));
        var start = (BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(16)) - 1) * 512;
        BinaryPrimitives.WriteSingleLittleEndian(bytes.AsSpan(start), float.NaN);
        Assert.Contains(
            "not a usable number",
            Assert.Throws<InvalidInputException>(() => C3dReader.Read(bytes, "nan.c3d")).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Noise_is_refused_with_one_kind_of_error_or_read()
    {
        foreach (var bytes in Samples.Broken(Write(new C3dDocument(Take(8, 60))), 600, 2))
        {
            try
            {
                C3dReader.Read(bytes, "noise.c3d");
            }
            catch (InvalidInputException)
            {
                // The only failure there may be.
            }
        }
    }

    /// <summary>A file as a machine of the time wrote it: two markers, two frames, second marker hidden in the second frame.</summary>
    private static byte[] HandMade(int processor, bool real)
    {
        var big = processor == 86;
        byte[] I16(int v) => big ? [(byte)(v >> 8), (byte)v] : [(byte)v, (byte)(v >> 8)];
        byte[] F32(float v)
        {
            var b = BitConverter.GetBytes(processor == 85 && v != 0 ? v * 4 : v);
            return processor switch
            {
                86 => [b[3], b[2], b[1], b[0]],
                85 => [b[2], b[3], b[0], b[1]],
                _ => b,
            };
        }

        var p = new List<byte> { 0, 0, 1, (byte)processor };
        void Group(string name, int id) => p.AddRange([(byte)name.Length, (byte)-id, .. name.Select(c => (byte)c), .. I16(3), 0]);
        void Parameter(string name, int id, int type, byte[] dims, byte[] body) =>
            p.AddRange([
                (byte)name.Length,
                (byte)id,
                .. name.Select(c => (byte)c),
                .. I16(5 + dims.Length + body.Length),
                (byte)type,
                (byte)dims.Length,
                .. dims,
                .. body,
                0,
            ]);
        Group("POINT", 1);
        Parameter("USED", 1, 2, [], I16(2));
        Parameter("LABELS", 1, -1, [8, 2], [.. "LHAND   RHAND   ".Select(c => (byte)c)]);
        Parameter("UNITS", 1, -1, [2], [.. "mm".Select(c => (byte)c)]);
        Parameter("Y_SCREEN", 1, -1, [2], [.. "+Z".Select(c => (byte)c)]);
        p.AddRange([0, 0]);
        var scale = 0.5f;
        var header = new List<byte> { 2, 0x50 };
        foreach (var v in new[] { 2, 0, 5, 6, 10 })
        {
            header.AddRange(I16(v));
        }

        header.AddRange([.. F32(real ? -scale : scale), .. I16(3), .. I16(0), .. F32(60)]);
        var data = new List<byte>();
        foreach (
            var (x, y, z, seen) in new[] { (100f, 300f, 200f, true), (10f, 20f, 30f, true), (100f, 300f, 200f, true), (0f, 0f, 0f, false) }
        )
        {
            data.AddRange(
                real
                    ? [.. F32(x), .. F32(y), .. F32(z), .. F32(seen ? 0 : -1)]
                    : [.. I16((int)(x / scale)), .. I16((int)(y / scale)), .. I16((int)(z / scale)), .. I16(seen ? 0 : -1)]
            );
        }

        byte[] Pad(List<byte> list) => [.. list, .. new byte[512 - list.Count]];
        return [.. Pad(header), .. Pad(p), .. Pad(data)];
    }
}
