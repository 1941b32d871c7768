using System.Numerics;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats;

/// <summary>A file on its way in: what it holds as it says itself, and the same after corrections.</summary>
public sealed record ImportedFile(string Name, FileKind Kind, MarkerTake? Markers, Motion? Motion, string Units, string Up)
{
    /// <summary>What a suit measured, for a file of one; it has neither markers nor a motion yet.</summary>
    public SuitTake? Suit { get; init; }

    /// <summary>What trackers saw in films of one performance; several files become one.</summary>
    public FilmValue? Films { get; init; }

    /// <summary>The films' cameras are those of a camera file; otherwise their lens is guessed.</summary>
    public bool LensKnown { get; init; }

    /// <summary>Frames a second; of several films those of the first.</summary>
    public double FrameRate => Markers?.FrameRate ?? Motion?.FrameRate ?? Suit?.FrameRate ?? Films!.Films[0].FrameRate;

    /// <summary>Frames of the markers or the motion.</summary>
    public int FrameCount => Markers?.FrameCount ?? Motion?.FrameCount ?? Suit?.FrameCount ?? Films!.FrameCount;

    /// <summary>Bytes its samples take, in memory and on the disk.</summary>
    public long Bytes =>
        Markers?.Positions.LongLength * 12
        ?? Motion?.Rotations.LongLength * ReadBudget.JointBytes
        ?? Suit?.Samples.LongLength * 4
        ?? Films!.Films.Sum(f => f.Values.LongLength * 4);

    /// <summary>What was odd about the file and how it was read.</summary>
    public IReadOnlyList<string> Warnings =>
        Markers?.Warnings ?? Motion?.Warnings ?? Suit?.Warnings ?? [.. Films!.Films.SelectMany(f => f.Warnings)];

    /// <summary>Performers or other prefixes in the names; empty text for names without one.</summary>
    public IReadOnlyList<string> Prefixes =>
        Markers is null
            ? []
            :
            [
                .. Markers
                    .Names.Where(n => !MarkerNames.IsUnnamed(n))
                    .Select(n => MarkerNames.Split(n).Performer ?? string.Empty)
                    .Distinct(),
            ];

    /// <summary>Reads any of the formats.</summary>
    /// <exception cref="InvalidInputException">File, place and reason.</exception>
    public static ImportedFile Read(byte[] bytes, string name)
    {
        if (SampleTableCsv.Is(bytes))
        {
            return WitnessCsv.Is(bytes)
                ? new ImportedFile(name, FileKind.Csv, null, null, "px", "own")
                {
                    Films = ImportedFilms.Join(null, WitnessCsv.Read(bytes, name), name),
                }
                : new ImportedFile(name, FileKind.Csv, null, null, "rad/s m/s² µT", "own") { Suit = SuitCsv.Read(bytes, name) };
        }

        var kind = MotionFiles.KindOf(name, bytes);
        if (kind is FileKind.C3d or FileKind.Csv)
        {
            var document = MotionFiles.AnyMarkers(bytes, name);
            return new ImportedFile(name, kind, document.Take, null, kind == FileKind.Csv ? "m" : document.Units, document.UpAxis);
        }

        return new ImportedFile(name, kind, null, MotionFiles.AnyMotion(bytes, name), kind == FileKind.Bvh ? "cm" : "m", "Y");
    }

    /// <summary>The same with the corrections applied.</summary>
    /// <exception cref="InvalidInputException">Something lies beyond a kilometre then: the unit is another one.</exception>
    public ImportedFile Corrected(ImportSettings settings)
    {
        settings.Checked();
        return this with
        {
            Markers = Markers is null ? null : Correct(Markers, settings).Checked(Name),
            Motion = Motion is null ? null : Correct(Motion, settings).Checked(Name),
            Films = Films is null ? null : ImportedFilms.Corrected(Films, LensKnown, settings.LensDegrees, settings.ShotTooFast),
        };
    }

    /// <summary>
    /// How tall the figure stands, metres: a skeleton by its bones, so that somebody who creeps is no child; markers from the lowest to the
    /// highest, the middle frame.
    /// </summary>
    public double Height()
    {
        if (Suit is not null || Films is not null)
        {
            return double.NaN;
        }

        var seen = MiddleHeight();
        var stands = Motion is null ? 0 : Standing(Motion.Skeleton);
        // A rest pose that is all along one axis says nothing about standing.
        return stands > seen / 2 ? stands : seen;
    }

    /// <summary>
    /// Bones from the lowest point at rest to the root and on to the highest, each by its length where it is upright, and by what it rises
    /// where it is not.
    /// </summary>
    private static double Standing(Skeleton s)
    {
        var ends = s.Joints.Select((j, i) => j.EndSite is { } e ? Vector3.Transform(e, s.RestRotations[i]) : Vector3.Zero).ToArray();
        int Leaf(int sign) => Enumerable.Range(0, s.Count).MaxBy(i => sign * (s.RestPositions[i].Y + ends[i].Y));
        static double Rise(Vector3 bone) => Math.Abs(bone.Y) * Math.Sqrt(2) > bone.Length() ? bone.Length() : Math.Abs(bone.Y);
        double Chain(int leaf)
        {
            var sum = Rise(ends[leaf]);
            for (var j = leaf; s.Parents[j] >= 0; j = s.Parents[j])
            {
                sum += Rise(s.RestPositions[j] - s.RestPositions[s.Parents[j]]);
            }

            return sum;
        }

        return Chain(Leaf(1)) + Chain(Leaf(-1));
    }

    private double MiddleHeight()
    {
        var points = Markers ?? MotionFiles.JointPoints(Motion!);
        var heights = new List<float>();
        for (var f = 0; f < points.FrameCount; f += Math.Max(1, points.FrameCount / 50))
        {
            var seen = points.At(f).ToArray().Where(MarkerTake.Seen).ToArray();
            if (seen.Length > 1)
            {
                heights.Add(seen.Max(p => p.Y) - seen.Min(p => p.Y));
            }
        }

        heights.Sort();
        return heights.Count == 0 ? 0 : heights[heights.Count / 2];
    }

    private static MarkerTake Correct(MarkerTake take, ImportSettings s)
    {
        var keep = take
            .Names.Where(n =>
                s.Subjects is null || MarkerNames.IsUnnamed(n) || s.Subjects.Contains(MarkerNames.Split(n).Performer ?? string.Empty)
            )
            .ToArray();
        if (keep.Length == 0)
        {
            throw new RefusedException("nothing of the file is chosen");
        }

        var own = take.Only(keep);
        var names = keep.Select(n => Rename(n, s)).ToArray();
        if (names.Distinct(StringComparer.Ordinal).Count() != names.Length)
        {
            throw new RefusedException("with this prefix two markers would have the same name");
        }

        var positions = new Vector3[own.Positions.Length];
        for (var i = 0; i < positions.Length; i++)
        {
            var p = own.Positions[i];
            positions[i] = C3dAxes.ToInside(s.LeftHanded ? p with { X = -p.X } : p, s.Up) * (float)s.Scale;
        }

        return new MarkerTake(names, s.Rate ?? take.FrameRate, take.FrameCount, positions)
        {
            FirstFrame = take.FirstFrame,
            Warnings = take.Warnings,
        };
    }

    private static string Rename(string name, ImportSettings s)
    {
        if (string.IsNullOrEmpty(s.OldPrefix) || MarkerNames.Split(name).Performer != s.OldPrefix)
        {
            return name;
        }

        var marker = MarkerNames.Split(name).Marker;
        return string.IsNullOrEmpty(s.NewPrefix) ? marker : $"{s.NewPrefix}:{marker}";
    }

    private static Motion Correct(Motion motion, ImportSettings s)
    {
        var scaled = s.Scale == 1 ? motion : MotionEdits.Scale(motion, (float)s.Scale);
        var right = s.LeftHanded ? MotionEdits.OtherHand(scaled) : scaled;
        var turned = s.Up == "Y" ? right : MotionEdits.Turn(right, C3dAxes.TurnToInside(s.Up));
        return s.Rate is { } rate ? MotionEdits.AtRate(turned, rate) : turned;
    }
}
