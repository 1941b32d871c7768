using Eidolon.Core.Faces;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Hands;

/// <summary>A face laid on the body's frames: in step by a clap or a jaw, at rest where it was not seen.</summary>
public sealed class FaceTests(ITestOutputHelper output)
{
    /// <summary>Half a frame of the face's tracker.</summary>
    private const double HalfFrame = 0.5 / 60;

    [Theory]
    [LongData("Ines", 0.083, 1)]
    [InlineData("Ines", -0.21, 2)]
    [LongData("Ines", 0.4, 3)]
    [LongData("Tobi", 0.083, 4)]
    [InlineData("Tobi", -0.37, 5)]
    [LongData("Tobi", 0.0, 6)]
    public void A_clap_tells_when_the_face_began(string who, double late, int seed)
    {
        var s = Signals.By(HarbourCast.Find(who));
        var face = FaceSimulator.See(s.Scene.Face!, s.Scene.Seconds, late, seed);
        var found = FaceLag.Find(s.Body, face);
        output.WriteLine($"{who} {late * 1000:0} ms: {(found!.Value.Seconds - late) * 1000:0.0} ms off by the {found.Value.By}");
        Assert.Equal("clap", found.Value.By);
        Assert.InRange(found.Value.Seconds, late - HalfFrame, late + HalfFrame);
        // A motion whose beginning was cut away finds the same moment of the recording.
        var cut = MotionEdits.Range(s.Body, 120, s.Body.FrameCount);
        Assert.Equal(found.Value.Seconds, FaceLag.Find(cut, face, 2)!.Value.Seconds, 3);
    }

    [Theory]
    [InlineData(0.131)]
    [InlineData(-0.45)]
    public void Two_jaws_that_speak_alike_tell_it_between_frames(double late)
    {
        static float Speech(double t) =>
            (float)(Math.Max(0, Math.Sin(t * 1.3)) * (0.4 + (0.3 * Math.Sin(t * 11)) + (0.2 * Math.Sin(t * 7.3))));
        float[] body = [.. Enumerable.Range(0, 1200).Select(f => Speech(f / 120.0) * 0.3f)],
            face = [.. Enumerable.Range(0, 600).Select(f => Speech((f / 60.0) + late))];
        var lag = FaceLag.Between(body, 120, face, 60);
        Assert.NotNull(lag);
        Assert.InRange(lag.Value, late - HalfFrame, late + HalfFrame);
        Assert.Null(FaceLag.Between(body, 120, new float[600], 60));
    }

    [Fact]
    public void Weights_follow_the_truth_and_rest_while_a_hand_is_before_the_face()
    {
        var s = Signals.By(HarbourCast.Ines);
        var face = FaceSimulator.See(s.Scene.Face!, s.Scene.Seconds, 0.083, 7);
        var (motion, hidden) = FaceTrack.On(s.Body, face, 0.083, 12);
        var truth = new float[FaceUnits.Names.Count];
        double sum = 0;
        var n = 0;
        for (var f = 0; f < motion.FrameCount - 10; f++)
        {
            s.Scene.Face!.At(f / motion.FrameRate, 7, truth);
            if (hidden.Any(h => f >= h.Start - 8 && f <= h.End + 8))
            {
                continue;
            }

            for (var k = 0; k < truth.Length; k++)
            {
                var own = motion.Morphs.TryGetValue(FaceUnits.Names[k], out var w) ? w[f] : 0;
                sum += (own - truth[k]) * (own - truth[k]);
                n++;
            }
        }

        output.WriteLine($"{Math.Sqrt(sum / n):0.0000} RMS");
        Assert.True(Math.Sqrt(sum / n) < 0.03, $"{Math.Sqrt(sum / n):0.000}");
        // 14.2 s to 14.72 s.
        var rest = Assert.Single(hidden, h => h.Start > 60 && h.End < 1400);
        Assert.InRange(rest.Start, 847, 860);
        Assert.InRange(rest.End, 875, 890);
        Assert.All(motion.Morphs.Values, w => Assert.Equal(0, w[(rest.Start + rest.End) / 2]));
        Assert.All(motion.Morphs.Values, w => Assert.All(w, v => Assert.InRange(v, 0, 1)));
    }

    [Fact]
    public void Tables_of_faces_and_gloves_are_read_as_they_were_written_and_wrong_ones_say_why()
    {
        var s = Signals.By(HarbourCast.Ines);
        var face = FaceSimulator.See(s.Scene.Face!, 3, 0.1, 2);
        var stream = new MemoryStream();
        FaceCsv.Write(stream, face);
        Assert.True(FaceCsv.Is(stream.ToArray()));
        Assert.False(GloveCsv.Is(stream.ToArray()));
        var read = FaceCsv.Read(stream.ToArray(), "face.csv");
        Assert.Equal(face.Names, read.Names);
        Assert.Equal(face.At(30, 3), read.At(30, 3), 3);
        var empty = Assert.Throws<InvalidInputException>(() =>
            FaceCsv.Read("# samples, frameRate=60, units=weight\nframe,sure\n0,1\n"u8, "face.csv")
        );
        Assert.Contains("no column is a weight", empty.Message);

        var gloves = GloveSimulator.Measure(MotionEdits.Range(s.Truth, 0, 60), 5);
        stream = new MemoryStream();
        GloveCsv.Write(stream, gloves);
        Assert.True(GloveCsv.Is(stream.ToArray()));
        Assert.Equal(gloves.At(20, 3)!.Value.X, GloveCsv.Read(stream.ToArray(), "g.csv").At(20, 3)!.Value.X, 3);
        var half = Assert.Throws<InvalidInputException>(() =>
            GloveCsv.Read("# samples, frameRate=60, units=quaternion\nframe,HandL.qx\n0,1\n"u8, "g.csv")
        );
        Assert.Contains("HandL.qy", half.Message);
    }
}
