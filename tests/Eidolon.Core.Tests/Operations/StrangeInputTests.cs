using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Tests.Labelling;
using Eidolon.StandIns.People;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Operations;

/// <summary>Takes that no camera ring would give, and files with wrong bytes: an operation works or says why not, and never crashes.</summary>
public sealed class StrangeInputTests(Bodies bodies) : IClassFixture<Bodies>, IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-strange").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private static MarkerTake Make(int kind, Random random, int frames = 500)
    {
        var names = Enumerable
            .Range(0, random.Next(0, 26))
            .Select(i => random.Next(2) == 0 && i < 53 ? HarbourMarkers.Set().Markers[i].Name : $"Dot_{i + 1:000}")
            .Distinct()
            .ToArray();
        var take = new MarkerTake(names, random.Next(4) == 0 ? 1 : random.Next(24, frames), kind == 0 ? 1 : random.Next(1, 45));
        for (var i = 0; i < take.Positions.Length; i++)
        {
            var p = new Vector3(random.NextSingle(), random.NextSingle(), random.NextSingle());
            take.Positions[i] = kind switch
            {
                1 => MarkerTake.Hidden,
                2 => new Vector3(1),
                3 => p * 1e12f,
                4 => random.Next(3) == 0 ? MarkerTake.Hidden : p * 1e-9f,
                5 => random.Next(30) == 0 ? new Vector3(float.MaxValue) : p,
                6 => (i / Math.Max(1, take.MarkerCount)) % 2 == 0 ? MarkerTake.Hidden : p,
                _ => random.Next(5) == 0 ? MarkerTake.Hidden : p,
            };
        }

        return take;
    }

    [Theory]
    [LongData("label", "{}")]
    [InlineData("label", """{ "from": 5, "to": 30 }""")]
    [InlineData("fill", """{ "method": "auto", "longest": 1000 }""")]
    [InlineData("fill", """{ "method": "rigid" }""")]
    [InlineData("fill", """{ "method": "correlation" }""")]
    [InlineData("fill", """{ "method": "cycle" }""")]
    [InlineData("despike", "{}")]
    [InlineData("smooth", """{ "cutoff": 6 }""")]
    [InlineData("unlabel", """{ "from": -5, "to": 9999 }""")]
    [InlineData("tidy", "{}")]
    [InlineData("trim", """{ "from": 3, "to": 30 }""")]
    public void Any_take_can_be_given_to_any_operation(string operation, string parameters)
    {
        var context = new OperationContext(new FileResources { Set = HarbourMarkers.Set(), Known = [bodies.Subject(bodies.Marit, false)] });
        var random = new Random(operation.Length + parameters.Length);
        for (var k = 0; k < (operation == "label" ? LongRun.Or(8, 2) : 24); k++)
        {
            var take = Make(k % 8, random, operation == "label" ? 60 : 500);
            var before = take.Positions.ToArray();
            try
            {
                var result = Samples.Operate(take, operation, JsonNode.Parse(parameters)!.AsObject(), context);
                Assert.Equal(result.MarkerCount * result.FrameCount, result.Positions.Length);
            }
            catch (Exception e) when (e is ArgumentException or RefusedException)
            {
                Assert.True(e.Message.Length > 10, e.Message);
            }

            // What goes in is never changed.
            Assert.Equal(before, take.Positions);
        }
    }

    [Fact]
    public void Files_with_wrong_bytes_are_refused_or_cleaned()
    {
        var random = new Random(77);
        var take = Make(7, new Random(5));
        using var stream = new MemoryStream();
        C3dWriter.Write(stream, new C3dDocument(take));
        var (c3d, set) = (stream.ToArray(), MarkerSetJson.Write(HarbourMarkers.Set()));
        var codes = new List<int>();
        for (var k = 0; k < 60; k++)
        {
            var (bytes, text) = (c3d.ToArray(), set.ToCharArray());
            for (var i = 0; i < 1 + random.Next(12); i++)
            {
                if (k % 2 == 0)
                {
                    bytes[random.Next(Math.Min(bytes.Length, 2048))] = (byte)random.Next(256);
                }
                else
                {
                    text[random.Next(text.Length)] = "{}[],:\"x0-e".ElementAt(random.Next(11));
                }
            }

            var (input, setFile, output) = (
                Path.Combine(_folder, "in.c3d"),
                Path.Combine(_folder, "set.json"),
                Path.Combine(_folder, "out.c3d")
            );
            File.WriteAllBytes(input, k % 5 == 0 ? bytes[..random.Next(bytes.Length)] : bytes);
            File.WriteAllText(setFile, new string(text));
            File.Delete(output);
            var code = Runner.Run(Commands.Root(), ["clean", input, "--marker-set", setFile, "--out", output]);
            Assert.Contains(code, new[] { 0, 3 });
            // Nothing half-written: a file is there only when the verb says so.
            Assert.Equal(code == 0, File.Exists(output));
            codes.Add(code);
        }

        Assert.Contains(0, codes);
        Assert.Contains(3, codes);
    }

    [Fact]
    public void A_set_that_does_not_fit_is_refused_with_the_marker_and_the_reason()
    {
        var (input, setFile, output) = (
            Path.Combine(_folder, "in.c3d"),
            Path.Combine(_folder, "set.json"),
            Path.Combine(_folder, "out.c3d")
        );
        using (var stream = File.Create(input))
        {
            C3dWriter.Write(stream, new C3dDocument(Make(7, new Random(5))));
        }

        var other = OddMarkers.Set(30, 4);
        File.WriteAllText(setFile, MarkerSetJson.Write(other));
        var error = new StringWriter();
        var console = Console.Error;
        Console.SetError(error);
        try
        {
            Assert.Equal(3, Runner.Run(Commands.Root(), ["clean", input, "--marker-set", setFile, "--out", output]));
        }
        finally
        {
            Console.SetError(console);
        }

        Assert.Contains(other.Markers[0].Name, error.ToString(), StringComparison.Ordinal);
        Assert.Contains("is not in", error.ToString(), StringComparison.Ordinal);
    }
}
