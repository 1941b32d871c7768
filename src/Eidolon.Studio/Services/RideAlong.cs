using System.Text.Json.Nodes;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;

namespace Eidolon.Studio.Services;

/// <summary>Hands and face that ride along with a performer's solve: what there is, what was found, and what it leaves to look at.</summary>
/// <param name="MarkersOn">Fingers of both hands that have a marker in the take.</param>
public sealed record RideAlong(
    OpenTake.Role Role,
    bool Several,
    int MarkersOn,
    IReadOnlyList<SampleStream> AllGloves,
    IReadOnlyList<SampleStream> AllFaces,
    JsonObject? HandsSaid,
    JsonObject? FaceSaid
)
{
    /// <summary>The gloves that are used, or would be; null where none were worn.</summary>
    public SampleStream? Gloves => Used(AllGloves, HandOperations.Fingers);

    /// <summary>The face that is used, or would be; null where none was recorded.</summary>
    public SampleStream? Face => Used(AllFaces, HandOperations.Face);

    /// <summary>Which of several recordings a stream is, from 1.</summary>
    public static int NumberOf(SampleStream stream) => StreamNames.RecordingOf(stream.Name);

    /// <summary>The one that an entry names; without an entry the newest.</summary>
    private SampleStream? Used(IReadOnlyList<SampleStream> all, Operation operation)
    {
        var entry = Role.State.Node.Entries.LastOrDefault(e => e.On && e.Operation == operation.Name);
        var used = entry is null || all.Count == 0 ? 0 : RideImport.Uses(entry.Parameters.ToJsonString(), all[0].Kind);
        return all.FirstOrDefault(s => NumberOf(s) == used) ?? (all.Count > 0 ? all[^1] : null);
    }

    /// <summary>The solve has fingers.</summary>
    public bool HasFingers => Role.Motion is { } m && HandSkeleton.HasFingers(m.Skeleton);

    /// <summary>The solve has a face.</summary>
    public bool HasFace => Role.Motion is { Morphs.Count: > 0 };

    /// <summary>When the face began, milliseconds after the body.</summary>
    public double Late => (double?)FaceSaid?["offsetSeconds"] * 1000 ?? 0;

    /// <summary>Cut-off of the face's smoothing, hertz.</summary>
    public double Smooth => (double?)FaceSaid?["smoothHertz"] ?? HandOperations.FaceHertz;

    /// <summary>What told when the face began, in words.</summary>
    public string FoundBy =>
        (string?)FaceSaid?["foundBy"] switch
        {
            "clap" => "found by the clap: the mouth opens as the hands meet",
            "jaw" => "found by the jaw that both saw",
            "hand" => (double?)FaceSaid?["foundSeconds"] is { } s ? $"set by hand; the clap says {s * 1000:+0;−0;0} ms" : "set by hand",
            _ => "nothing told it: it cannot be trusted until it is set",
        };

    /// <summary>What finding them had to say; stretches that are off are Findings.</summary>
    public IEnumerable<string> Warnings =>
        (HandsSaid?["warnings"] as JsonArray ?? [])
            .SkipLast((HandsSaid?["off"] as JsonArray ?? []).Count)
            .Concat(FaceSaid?["warnings"] as JsonArray ?? [])
            .Select(w => (string)w!);

    /// <summary>Mean distance of a hand's markers from its fingers, millimetres; null without markers.</summary>
    public double? Millimetres(char side)
    {
        double[] all =
        [
            .. (HandsSaid?["fingers"] as JsonArray ?? [])
                .Where(f => (string?)f!["side"] == side.ToString() && f["millimetres"] is not null)
                .Select(f => (double)f!["millimetres"]!),
        ];
        return all.Length == 0 || all.Max() == 0 ? null : all.Average();
    }

    /// <summary>What may ride along with every solved performer of a take.</summary>
    public static IReadOnlyList<RideAlong> Of(OpenTake open, MarkerSet set, IReadOnlyList<SampleStream> streams) =>
        [
            .. open.Solved.Select(role => new RideAlong(
                role,
                open.Performers.Count > 1,
                On(open, role, set),
                Recordings(streams, StreamKind.Gloves, role.Subject.Id),
                Recordings(streams, StreamKind.Face, role.Subject.Id),
                role.State.Last(HandOperations.Fingers.Name)?.Report
                    ?? role.State.Last(FilmOperation.Solve.Name)?.Report["hands"] as JsonObject,
                role.State.Last(HandOperations.Face.Name)?.Report
            )),
        ];

    /// <summary>Fingers that cannot be where they were seen, and stretches in which the face was hidden.</summary>
    public static IReadOnlyList<Finding> Findings(OpenTake.Role role) => [.. FingerFindings(role), .. FaceFindings(role)];

    private static IReadOnlyList<SampleStream> Recordings(IReadOnlyList<SampleStream> streams, StreamKind kind, int subject) =>
        [.. streams.Where(s => s.Kind == kind && s.SubjectId == subject).OrderBy(NumberOf)];

    private static int On(OpenTake open, OpenTake.Role role, MarkerSet set)
    {
        var prefix = open.Take.Performers.FirstOrDefault(p => p.SubjectId == role.Subject.Id)?.Prefix;
        return FingerMarkers
            .Of(set)
            .Where(m => open.Marked.IndexOf(MarkerNames.Join(string.IsNullOrEmpty(prefix) ? null : prefix, m.Name)) >= 0)
            .Select(m => (BodyRoles.Side(m.Segment), BodyRoles.Stem(m.Segment)[..^1]))
            .Distinct()
            .Count();
    }

    private static IEnumerable<Finding> FingerFindings(OpenTake.Role role) =>
        (role.State.Last(HandOperations.Fingers.Name)?.Report["off"] as JsonArray ?? []).Select(o =>
        {
            var (finger, side) = ((string)o!["finger"]!, (string)o["side"]!);
            var with = (string?)o["with"];
            return new Finding(
                "finger",
                (int)o["start"]!,
                (int)o["end"]!,
                with is null ? Severity.Look : Severity.MustFix,
                finger + side,
                with is null
                    ? $"cannot be where its marker is, {(double)o["millimetres"]!:0} mm off; the pose goes past it"
                    : $"has the {with.ToLowerInvariant()}'s marker: exchange the two at Label; the pose goes past it",
                (double)o["millimetres"]!
            );
        });

    private static IEnumerable<Finding> FaceFindings(OpenTake.Role role)
    {
        if (role.State.Last(HandOperations.Face.Name)?.Report["hidden"] is not JsonArray hidden || role.Motion is not { } motion)
        {
            yield break;
        }

        foreach (var h in hidden)
        {
            var (start, end) = ((int)h![0]!, (int)h[1]!);
            // Before the tracker began and after it ended nothing is hidden, there is only nothing.
            if (start > 0 && end < motion.FrameCount - 1)
            {
                yield return new Finding(
                    "face",
                    start,
                    end,
                    Severity.Look,
                    "Face",
                    $"not seen for {(end - start + 1) / motion.FrameRate:0.0} s: it rests there",
                    end - start + 1
                );
            }
        }
    }
}
