using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>From any format to any other that can hold the data.</summary>
internal static class ConvertVerb
{
    private sealed record Wanted(
        string In,
        string Out,
        double? Fps,
        string? Frames,
        string? Units,
        string? Up,
        string? Names,
        double? UnitScale,
        bool RootOnly,
        bool InPlace,
        bool RestFrame,
        RotationOrder? Order
    );

    public static Command Create()
    {
        var input = new Argument<string>("IN");
        var output = new Argument<string>("OUT");
        var fps = new Option<double?>("--fps") { Description = "Resample to N frames a second." };
        var frames = Options.Frames();
        var units = new Option<string?>("--units") { Description = "m, cm, mm or in." };
        var up = new Option<string?>("--up") { Description = "Y or Z." };
        var names = new Option<string?>("--names") { Description = "own (as they are) or roles." };
        var unitScale = Options.UnitScale();
        var translation = new Option<string>("--joint-translation")
        {
            DefaultValueFactory = _ => "keep",
            Description = "keep or root-only.",
        };
        var inPlace = new Option<bool>("--in-place");
        var restFrame = new Option<bool>("--rest-frame");
        var order = new Option<string?>("--rotation-order") { Description = "XYZ in any order (BVH)." };
        var json = Options.Json();
        var command = new Command("convert", "Between any two formats that can hold the data.")
        {
            input,
            output,
            fps,
            frames,
            units,
            up,
            names,
            unitScale,
            translation,
            inPlace,
            restFrame,
            order,
            json,
        };
        command.SetAction(p =>
        {
            RotationOrder? parsed = null;
            if (p.GetValue(order) is { } text)
            {
                parsed = RotationOrder.TryParse(text, out var o)
                    ? o
                    : throw new UsageException($"--rotation-order {text}: three different letters of X, Y, Z");
            }

            var kind = p.GetValue(translation);
            var wanted = new Wanted(
                p.GetRequiredValue(input),
                p.GetRequiredValue(output),
                p.GetValue(fps),
                p.GetValue(frames),
                p.GetValue(units) is { } u ? Options.Unit(u) : null,
                p.GetValue(up)?.ToUpperInvariant(),
                p.GetValue(names),
                Options.Scale(p.GetValue(unitScale)),
                kind == "root-only",
                p.GetValue(inPlace),
                p.GetValue(restFrame),
                parsed
            );
            if (
                kind is not ("keep" or "root-only")
                || wanted.Up is not (null or "Y" or "Z")
                || wanted.Names is not (null or "own" or "roles")
                || wanted.Fps is { } f && !(f > 0 && f <= 10000)
            )
            {
                throw new UsageException("--joint-translation keep|root-only, --up Y|Z, --names own|roles, --fps above 0");
            }

            return Run(wanted, p.GetValue(json));
        });
        return command;
    }

    private static int Run(Wanted w, string? json)
    {
        var extension = Path.GetExtension(w.Out).ToLowerInvariant();
        if (extension is not (".bvh" or ".glb" or ".gltf" or ".usda" or ".csv" or ".c3d"))
        {
            throw new UsageException($"cannot write '{extension}': bvh, glb, gltf, usda, csv or c3d");
        }

        var bytes = InputFile.Read(w.In);
        var kind = MotionFiles.KindOf(w.In, bytes);
        if (kind is FileKind.C3d or FileKind.Csv)
        {
            return extension is ".c3d" or ".csv"
                ? Markers(w, MotionFiles.ReadMarkers(bytes, w.In), extension, json)
                : throw new UsageException(
                    $"{kind.ToString().ToLowerInvariant()} holds markers without a skeleton: {extension} cannot hold them (solve first)"
                );
        }

        var motion = MotionFiles.ReadMotion(bytes, w.In, w.UnitScale, InputFile.FolderOf(w.In));
        var warnings = motion.Warnings.ToList();
        motion = Edit(w, motion, warnings);
        if (extension == ".c3d")
        {
            var points = new C3dDocument(MotionFiles.JointPoints(motion))
            {
                Units = w.Units ?? "mm",
                UpAxis = w.Up ?? "Y",
                MetresPerUnit = Metres(w.Units ?? "mm"),
            };
            AtomicFile.Write(w.Out, s => C3dWriter.Write(s, points));
        }
        else if (
            extension is ".glb" or ".gltf"
            && kind is FileKind.Glb or FileKind.Gltf
            && !w.RestFrame
            && w.Names != "roles"
            && GltfReader.Open(bytes, w.In, InputFile.FolderOf(w.In)).LogicalMeshes.Count > 0
        )
        {
            var character = GltfReader.Packed(bytes, w.In, InputFile.FolderOf(w.In));
            void Character(Stream s) => GltfWriter.WriteCharacter(s, character, w.In, motion);
            AtomicFile.Write(w.Out, s =>
            {
                if (extension == ".gltf")
                {
                    GltfWriter.WriteText(s, w.In, Character);
                }
                else
                {
                    Character(s);
                }
            });
        }
        else
        {
            MotionFiles.WriteMotion(w.Out, motion, w.Units, w.Up ?? "Y", w.Order);
        }

        if (extension is ".glb" or ".gltf" && (w.Up == "Z" || w.Units is not (null or "m")))
        {
            warnings.Add("glTF is always in metres and Y up; --units and --up do not apply to it");
        }

        Report.Write(
            json,
            Summary(motion.FrameCount, motion.FrameRate, warnings),
            $"{w.Out}: {motion.FrameCount} frames at {motion.FrameRate:0.###}/s"
        );
        return ExitCodes.Done;
    }

    private static Motion Edit(Wanted w, Motion motion, List<string> warnings)
    {
        var (start, end, step) = Options.Range(w.Frames, motion.FrameCount);
        if ((start, end, step) != (0, motion.FrameCount, 1))
        {
            motion = MotionEdits.Range(motion, start, end, step);
        }

        if (w.Fps is { } fps)
        {
            Uneven(motion.FrameCount, motion.FrameRate, fps, warnings);
            motion = MotionEdits.Resample(motion, fps);
        }

        motion = w.RootOnly ? MotionEdits.RootTranslationOnly(motion) : motion;
        motion = w.InPlace ? MotionEdits.InPlace(motion) : motion;
        motion = w.RestFrame ? MotionEdits.WithRestFrame(motion) : motion;
        if (w.Names == "roles")
        {
            var roles = RoleFinder.Find(motion.Skeleton).Roles.ToDictionary(r => r.Value, r => r.Key.ToString());
            motion = motion.On(new Skeleton(motion.Skeleton.Joints.Select(j => j with { Name = roles.GetValueOrDefault(j.Name, j.Name) })));
        }

        return motion;
    }

    private static void Uneven(int frames, double from, double to, List<string> warnings)
    {
        var exact = (frames - 1) / from * to;
        if (Math.Abs(exact - Math.Round(exact)) > 1e-6)
        {
            warnings.Add(
                $"{frames} frames at {from:0.###}/s are {exact:0.###} steps at {to:0.###}/s; the end is moved to the nearest frame, {MotionEdits.WholeFrames(frames, from, to) - 1}"
            );
        }
    }

    private static int Markers(Wanted w, C3dDocument document, string extension, string? json)
    {
        var take = document.Take;
        var warnings = take.Warnings.ToList();
        var (start, end, step) = Options.Range(w.Frames, take.FrameCount);
        var analog = document.Analog;
        if ((start, end) != (0, take.FrameCount))
        {
            take = take.Range(start, end);
            var per = document.AnalogChannels * document.AnalogSamplesPerFrame;
            analog = analog.AsSpan(start * per, (end - start) * per).ToArray();
        }

        if (w.Fps is not null || step > 1)
        {
            var rate = w.Fps ?? take.FrameRate / step;
            Uneven(take.FrameCount, take.FrameRate, rate, warnings);
            take = MarkerEdits.Resample(take, rate);
            if (analog.Length > 0)
            {
                analog = [];
                warnings.Add("analog channels are left out of a resampled take");
            }
        }

        if (extension == ".csv")
        {
            AtomicFile.Write(w.Out, s => CsvMarkers.Write(s, take, w.Units ?? "m", w.Up ?? "Y"));
        }
        else
        {
            var units = w.Units ?? document.Units;
            var result = document with
            {
                Take = take,
                Analog = analog,
                AnalogChannels = analog.Length == 0 ? 0 : document.AnalogChannels,
                AnalogSamplesPerFrame = analog.Length == 0 ? 0 : document.AnalogSamplesPerFrame,
                Units = units,
                MetresPerUnit = Metres(units),
                UpAxis = w.Up ?? document.UpAxis,
            };
            AtomicFile.Write(w.Out, s => C3dWriter.Write(s, result));
        }

        Report.Write(
            json,
            Summary(take.FrameCount, take.FrameRate, warnings),
            $"{w.Out}: {take.MarkerCount} markers, {take.FrameCount} frames"
        );
        return ExitCodes.Done;
    }

    private static double Metres(string unit) => Units.TryMetres(unit, out var m) ? m : 0.001;

    private static JsonObject Summary(int frames, double rate, List<string> warnings) =>
        new()
        {
            ["frames"] = frames,
            ["frameRate"] = Math.Round(rate, 6),
            ["warnings"] = Report.Array(warnings),
        };
}
