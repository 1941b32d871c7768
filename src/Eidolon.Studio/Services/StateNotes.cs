using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Clipping;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>Findings and measures by content: worked out once, asked for often.</summary>
public sealed class StateNotes
{
    /// <summary>Bytes of what is known of each kind.</summary>
    private const long Most = 16_000_000;

    /// <summary>Up to so many samples a note is worked out while the page waits: less than half a second.</summary>
    private const int Quick = 1_200_000;

    private readonly MemoCache<(UInt128, UInt128), MarkerNote> _markers = new(Most, n => Size(n.Findings));
    private readonly MemoCache<(UInt128, UInt128), MotionQuality> _motions = new(Most, q => 4096 + Size(q.Findings));
    private readonly MemoCache<UInt128, IReadOnlyList<(int Body, Finding Finding)>> _encounters = new(Most, f => f.Count * EachFinding);
    private readonly MemoCache<(UInt128, UInt128), IReadOnlyList<Gap>[]> _gaps = new(Most, g => g.Sum(m => 32L + (8 * m.Count)));
    private readonly MemoCache<(UInt128, UInt128), IReadOnlyList<Finding>> _films = new(Most, Size);

    /// <summary>Bytes of a Finding with its words.</summary>
    private const long EachFinding = 300;

    private static long Size(IReadOnlyList<Finding> findings) => findings.Count * EachFinding;

    /// <summary>What is known of the markers' samples.</summary>
    private sealed record MarkerNote(IReadOnlyList<Finding> Findings, MarkerQuality? Quality);

    /// <summary>The note of a take as it is shown, worked out now if it must be.</summary>
    public StateNote Of(OpenTake open)
    {
        var set = SetOf(open);
        var gaps = Gaps(open);
        var markers = _markers.Of((open.Markers.Shown ?? 0, SetKey(set)), () => Work(open.Marked, set));
        return new StateNote(gaps, markers.Findings, markers.Quality, Motions(open, open.Solved), Met(open, Motions(open, open.Played)));
    }

    /// <summary>The note when it is known or quickly made; null for long takes that were not looked at yet.</summary>
    public StateNote? Ready(OpenTake open) =>
        open.Marked.Positions.Length < Quick || _markers.Has((open.Markers.Shown ?? 0, SetKey(SetOf(open)))) ? Of(open) : null;

    /// <summary>The gaps of the markers that are shown: one pass over the frames, kept.</summary>
    public IReadOnlyList<Gap>[] Gaps(OpenTake open) => _gaps.Of((open.Markers.Shown ?? 0, 0), () => GapTable.Of(open.Marked));

    /// <summary>The measures of another state of the markers.</summary>
    public MarkerQuality? Quality(UInt128 content, MarkerTake take, MarkerSet set) =>
        _markers.Of((content, SetKey(set)), () => Work(take, set)).Quality;

    /// <summary>The measures of a motion, by its content.</summary>
    public MotionQuality Quality(UInt128 content, Motion motion, IReadOnlyList<ContactEdit> contacts) =>
        _motions.Of((content, 0), () => MotionQuality.Measure(motion, contacts));

    /// <summary>The measures of a character's motion, by that and by its body.</summary>
    private MotionQuality Quality(OpenTake open, OpenTake.Role role)
    {
        if (role.Character is null)
        {
            return Quality(role.State.Shown ?? 0, role.Motion!, role.Contacts);
        }

        // Where its file is gone, what it did is still measured, by average proportions.
        return Volumes(open, role) is { } volumes
            ? _motions.Of((role.State.Shown ?? 0, open.Resources.Hash(new ResourceKey(ResourceKind.Character, role.Node.TargetId))), () =>
                MotionQuality.Measure(role.Motion!, role.Contacts, volumes)
            )
            : Quality(role.State.Shown ?? 0, role.Motion!, role.Contacts);
    }

    /// <summary>The set of the take; an empty one where none can be had.</summary>
    public static MarkerSet SetOf(OpenTake open)
    {
        try
        {
            return open.Resources.MarkerSet();
        }
        catch (Exception e) when (e is Core.RefusedException or Core.InvalidInputException)
        {
            return new MarkerSet("none", [], []);
        }
    }

    private static UInt128 SetKey(MarkerSet set) =>
        ContentHash.Of(string.Join('|', set.Markers.Select(m => m.Name + m.Segment)) + string.Join('|', set.Links));

    private IReadOnlyList<MotionNote> Motions(OpenTake open, IEnumerable<OpenTake.Role> roles)
    {
        var all = roles.ToArray();
        return
        [
            .. all.Select(r => new MotionNote(
                r.Node.Id,
                all.Length > 1 ? r.Name : string.Empty,
                Quality(open, r),
                [
                    .. Slips(r, all.Length > 1),
                    .. Films(r),
                    .. RideAlong.Findings(r),
                    .. FindingJson.Read(r.State.Last("retarget")?.Report["findings"]),
                ]
            )),
        ];
    }

    /// <summary>With what characters run into: each other, and the props that are in the take.</summary>
    private IReadOnlyList<MotionNote> Met(OpenTake open, IReadOnlyList<MotionNote> notes)
    {
        var roles = open.Played.ToArray();
        var props = open.AtHand.Where(p => p.Places is not null).ToArray();
        if (roles.Length + props.Length < 2 || roles.Length == 0)
        {
            return notes;
        }

        var key = ContentHash.Of(
            string.Join(
                '|',
                roles
                    .Select(r =>
                        $"{r.State.Shown} {r.Subject.Id} {r.Character!.Name} {BodyKey(open, ResourceKind.Character, r.Node.TargetId)}"
                    )
                    .Concat(props.Select(p => $"{p.State.Shown} {p.Subject.Name} {BodyKey(open, ResourceKind.Prop, p.Subject.Id)}"))
            )
        );
        var met = _encounters.Of(key, () =>
            EncounterMeasure.Findings(
                [
                    .. roles.Select(r =>
                        EncounterBody.Of(roles.Length > 1 ? r.Character!.Name : string.Empty, r.Motion!, Volumes(open, r)) with
                        {
                            By = r.Subject.Id,
                        }
                    ),
                ],
                [.. props.Select(p => Prop(open, p)).OfType<EncounterProp>()]
            )
        );
        return [.. notes.Select((n, i) => n with { OfSolve = [.. n.OfSolve, .. met.Where(m => m.Body == i).Select(m => m.Finding)] })];
    }

    /// <summary>Content of a character's volumes or of a prop's shape; nothing where it is gone.</summary>
    private static UInt128? BodyKey(OpenTake open, ResourceKind kind, int subject)
    {
        try
        {
            return open.Resources.Hash(new ResourceKey(kind, subject));
        }
        catch (Core.RefusedException)
        {
            return null;
        }
    }

    private static EncounterProp? Prop(OpenTake open, OpenTake.Role prop)
    {
        try
        {
            return EncounterProp.Of(prop.Subject.Name, prop.Places!, open.Resources.Prop(prop.Subject.Id));
        }
        catch (Exception e) when (e is Core.RefusedException or Core.InvalidInputException or Core.DamagedDataException)
        {
            // A prop that is gone from the library meets nobody.
            return null;
        }
    }

    /// <summary>What of a character may not go into anything; null where its file is gone.</summary>
    private static BodyVolumes? Volumes(OpenTake open, OpenTake.Role role)
    {
        try
        {
            return open.Resources.Volumes(role.Node.TargetId);
        }
        catch (Exception e) when (e is Core.RefusedException or Core.InvalidInputException or Core.DamagedDataException)
        {
            return null;
        }
    }

    /// <summary>Stretches of a performer's films that are off in this solve.</summary>
    private IReadOnlyList<Finding> Films(OpenTake.Role role) =>
        role.Films is { } films
            ? _films.Of((role.State.Shown ?? 0, ContentHash.Of(films)), () => FilmView.Of(role)?.Stretches() ?? [])
            : [];

    /// <summary>Slips that the solve found and did not follow.</summary>
    private static IReadOnlyList<Finding> Slips(OpenTake.Role role, bool several) =>
        [
            .. (role.State.Last("solve")?.Report["slips"] as JsonArray ?? [])
                .Where(s => !(bool)s!["followed"]!)
                .Select(s => new Finding(
                    "slip",
                    (int)s!["frame"]!,
                    role.Motion!.FrameCount - 1,
                    Severity.Look,
                    MarkerNames.Join(several ? role.Name : null, (string)s["marker"]!),
                    $"sits {(double)s["millimetres"]!:0} mm elsewhere on its bone from here on",
                    (double)s["millimetres"]!
                )),
        ];

    private static MarkerNote Work(MarkerTake take, MarkerSet set)
    {
        var named = take.Names.Where(n => !MarkerNames.IsUnnamed(n)).ToArray();
        var labelled = named.Length == take.MarkerCount ? take : take.Only(named);
        Finding[] findings = named.Length == 0 ? [] : [.. MarkerFindings.Find(labelled, set).Where(f => f.Severity != Severity.Note)];
        return new MarkerNote(findings, named.Length == 0 ? null : MarkerQuality.Measure(labelled));
    }
}
