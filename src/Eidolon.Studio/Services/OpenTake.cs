using Eidolon.Core;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>A take opened: its slate, how its nodes stand, and what they show. It always opens: what cannot be read is empty, and says why.</summary>
public sealed class OpenTake
{
    private readonly Lazy<MarkerValue> _marked;
    private string _damage = string.Empty;

    public OpenTake(Take take, LedgerLook look, IReadOnlyDictionary<int, Subject> subjects)
    {
        (Take, Look) = (take, look);
        MarkerNode = look.Find(NodeKind.Markers) ?? throw new RefusedException($"{take.Name} has no Ledger");
        Markers = look.State(MarkerNode);
        Subject Of(int id) => subjects.TryGetValue(id, out var s) ? s : new Subject { Name = "gone from the library" };
        Performers =
        [
            .. take
                .Performers.Select(p => (Part: p, Node: look.Find(NodeKind.Solve, p.SubjectId)))
                .Where(x => x.Node is not null)
                .Select(x => new Role(x.Part.Subject!, null, x.Node!, look)),
        ];
        Casts = [.. look.Of(NodeKind.Cast).Select(n => new Role(Of(n.SubjectId), Of(n.TargetId), n, look))];
        Props =
        [
            .. take
                .Props.Select(p => (Part: p, Node: look.Find(NodeKind.Places, p.SubjectId)))
                .Where(x => x.Node is not null)
                .Select(x => new Role(x.Part.Subject!, null, x.Node!, look)),
        ];
        Attached = [.. look.Of(NodeKind.Attached).Select(n => new Role(Of(n.SubjectId), null, n, look))];
        _marked = new(Read);
    }

    /// <summary>A performer, cast or prop of the take, and the node that says what it did.</summary>
    /// <param name="Subject">The performer or prop.</param>
    /// <param name="Character">Whom the performer plays, for a cast.</param>
    public sealed record Role(Subject Subject, Subject? Character, NodeRow Node, LedgerLook Look)
    {
        private readonly Lazy<NodeValue?> _value = new(() => Look.Value(Node));
        private readonly Lazy<NodeValue?> _recorded = new(() => Before(Look, Node));

        public NodeState State { get; } = Look.State(Node);

        public Motion? Motion => (_value.Value as MotionValue)?.Motion;

        /// <summary>What the solver works on; null where it is damaged: the state of the node says so.</summary>
        private static NodeValue? Before(LedgerLook look, NodeRow node)
        {
            try
            {
                var entries = look.State(node).Node.Entries;
                return look.Runner.ValueAfter(node.Id, entries.TakeWhile(e => !SolveOperations.Solve.TakesPlaceOf(e.Operation)).Count());
            }
            catch (DamagedDataException)
            {
                return null;
            }
        }

        /// <summary>It stands on the suit the performer wore.</summary>
        public bool Suit => Solver == SuitOperation.Solve.Name;

        /// <summary>It stands on films of the performer.</summary>
        public bool Filmed => Solver == FilmOperation.Solve.Name;

        /// <summary>The operation that solves it: the one it is solved with, else the first that can.</summary>
        public string Solver =>
            State.Node.Entries.FirstOrDefault(e => SolveOperations.Solve.TakesPlaceOf(e.Operation))?.Operation ?? Solvers.First();

        /// <summary>The operations that could solve it, by the ways in which the performance was recorded; one at least.</summary>
        public IEnumerable<string> Solvers
        {
            get
            {
                // The streams' names tell: no sample is read for it.
                var (suit, films) = Look.Nodes.RecordedOf(Node);
                return !suit && !films
                    ? [SolveOperations.Solve.Name]
                    :
                    [
                        .. State.Node.Inputs.Count > 0 ? [SolveOperations.Solve.Name] : Array.Empty<string>(),
                        .. suit ? [SuitOperation.Solve.Name] : Array.Empty<string>(),
                        .. films ? [FilmOperation.Solve.Name] : Array.Empty<string>(),
                    ];
            }
        }

        /// <summary>What it is solved from lies beside the take and has a clock of its own.</summary>
        public bool Beside =>
            _recorded.Value is RecordedValue r
            && (
                Suit
                    ? r.Suit is { } s && (s.Take.FrameRate != r.FrameRate || s.FrameCount != r.Frames)
                    : Filmed && r.Films is { } f && (f.Films[0].FrameRate != r.FrameRate || f.FrameCount != r.Frames)
            );

        /// <summary>What the solve said, whatever it was made from; null when there is none.</summary>
        public EntryReport? Solved => State.Last(Solver);

        /// <summary>The films it stands on with everything that was put right in them; null when there are none.</summary>
        public FilmValue? Films => Filmed ? _recorded.Value as FilmValue ?? (_recorded.Value as RecordedValue)?.Films : null;

        public IReadOnlyList<ContactEdit> Contacts => (_value.Value as MotionValue)?.Contacts ?? [];

        public PropPlaces? Places => (_value.Value as PlacesValue)?.Places;

        /// <summary>Who is seen: the character, else the performer or prop itself.</summary>
        public string Name => (Character ?? Subject).Name;
    }

    public Take Take { get; }

    public LedgerLook Look { get; }

    public NodeRow MarkerNode { get; }

    /// <summary>How the markers stand.</summary>
    public NodeState Markers { get; }

    /// <summary>Performers of the slate with their solves, in its order.</summary>
    public IReadOnlyList<Role> Performers { get; }

    /// <summary>Who plays whom.</summary>
    public IReadOnlyList<Role> Casts { get; }

    public IReadOnlyList<Role> Props { get; }

    /// <summary>Props as they are attached to characters; without an entry they go as they were recorded.</summary>
    public IReadOnlyList<Role> Attached { get; }

    /// <summary>Props as the characters have them: attached where they are, else as recorded.</summary>
    public IEnumerable<Role> AtHand =>
        Props.Select(p => Attached.FirstOrDefault(c => c.Subject.Id == p.Subject.Id && c.Places is not null) ?? p);

    public IResources Resources => Look.Resources(MarkerNode);

    /// <summary>The markers as they are shown.</summary>
    public MarkerTake Marked => _marked.Value.Take;

    public IReadOnlyList<PinnedLabel> Pinned => _marked.Value.Pinned;

    /// <summary>Why the samples cannot be read; empty when they can.</summary>
    public string Damage
    {
        get
        {
            _ = _marked.Value;
            return _damage;
        }
    }

    /// <summary>Name of the markers that are shown, equal for equal samples.</summary>
    public string MarkerState => ContentHash.Text(Markers.Shown ?? 0);

    /// <summary>Name of everything that is shown.</summary>
    public string State =>
        ContentHash.Text(
            ContentHash.Of(
                string.Join('|', Roles.Select(r => $"{r.State.Shown}{r.State.UpToDate}").Prepend($"{MarkerState}{Markers.UpToDate}"))
            )
        );

    /// <summary>Solved performers.</summary>
    public IEnumerable<Role> Solved => Performers.Where(p => p.Motion is not null);

    /// <summary>Performers whose solve stands on something else than markers: the suit they wore, films of them.</summary>
    public IEnumerable<Role> Unmarked => Performers.Where(p => p.Suit || p.Filmed);

    /// <summary>The performer whose films are shown.</summary>
    public Role? Filmed => Performers.FirstOrDefault(p => p.Filmed);

    /// <summary>Casts that have a motion.</summary>
    public IEnumerable<Role> Played => Casts.Where(c => c.Motion is not null);

    private IEnumerable<Role> Roles => [.. Performers, .. Props, .. Casts, .. Attached];

    /// <summary>Everything that is out of date, in words, and how long it takes to bring up.</summary>
    public IReadOnlyList<string> OutOfDate =>
        [
            .. Markers.OutOfDate ? ["the markers"] : Array.Empty<string>(),
            .. Roles.Where(r => r.State.OutOfDate).Select(r => r.Character is { } c ? $"{r.Subject.Name} as the {c.Name}" : r.Subject.Name),
        ];

    /// <summary>Why entries cannot run, node by node.</summary>
    public IReadOnlyList<string> Troubles =>
        [.. new[] { Markers }.Concat(Roles.Select(r => r.State)).Where(s => s.Refused).Select(s => s.Reason).Distinct()];

    /// <summary>Frames there are now: a trim leaves fewer than were recorded.</summary>
    public int FrameCount =>
        Marked.MarkerCount > 0 ? Marked.FrameCount
        : Solved.FirstOrDefault()?.Motion is { } m ? m.FrameCount
        : Take.FrameCount;

    /// <summary>Seconds to bring everything up to date.</summary>
    public double SecondsToRun => Look.SecondsToRun;

    /// <summary>The report of the last entry of a marker operation that is on, or null.</summary>
    public EntryReport? Last(string operation) => Markers.Last(operation);

    private MarkerValue Read()
    {
        try
        {
            if (Look.Runner.Value(MarkerNode.Id) is MarkerValue value)
            {
                return value;
            }
        }
        catch (DamagedDataException e)
        {
            _damage = e.Message;
        }

        _damage = _damage.Length > 0 ? _damage : Markers.Reason;
        // What is whole is shown all the same.
        return new MarkerValue(Look.Nodes.Rest(MarkerNode) ?? new MarkerTake([], Take.FrameRate, Math.Max(1, Take.FrameCount)));
    }
}
