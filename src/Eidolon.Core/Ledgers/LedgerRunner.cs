using System.Diagnostics;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Ledgers;

/// <summary>
/// Works out how the nodes of a Ledger stand, from their roots on. A result is asked for by what it would be made of; only what is not
/// known is run, and where a result comes out with the same content, what stands on it stays as it is. One runner is one look: it reads each node
/// once. Results do not depend on who asks first, or on how often.
/// </summary>
/// <remarks>
/// The scheme is that of a build with constructive traces and early cut-off: Mokhov, Mitchell &amp; Peyton Jones, "Build systems à la carte",
/// 2018.
/// </remarks>
public sealed class LedgerRunner(INodeSource nodes, IResultStore results)
{
    private readonly Dictionary<int, NodeState> _known = [];

    /// <summary>How a node stands, without running anything that takes long: what would have to be run is out of date.</summary>
    public NodeState Look(int node) => Work(node, false, null, default);

    /// <summary>Runs what must be run for a node, and for those it stands on.</summary>
    /// <exception cref="OperationCanceledException">The person stopped it.</exception>
    public NodeState Run(int node, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        _known.Clear();
        return Work(node, true, progress, cancel);
    }

    /// <summary>Runs several nodes, in order.</summary>
    public IReadOnlyList<NodeState> Run(IReadOnlyList<int> all, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        _known.Clear();
        return [.. all.Select((id, i) => Work(id, true, new Part(progress, i, all.Count), cancel))];
    }

    /// <summary>The value a node shows; null when there is none. Made again where the store has forgotten it.</summary>
    public NodeValue? Value(int node, CancellationToken cancel = default)
    {
        var state = _known.TryGetValue(node, out var known) ? known : Look(node);
        return state.Shown is { } shown ? Value(state, shown, cancel) : null;
    }

    /// <summary>
    /// The value of a node made of what there is now, for whatever leaves the Ledger: a file, a library, a report. Never what is only shown meanwhile.
    /// </summary>
    /// <param name="run">Runs what is out of date first.</param>
    /// <exception cref="RefusedException">It is out of date, or cannot be made: says why. Never with a value of before.</exception>
    public Target Target(int node, bool run, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var state = run ? Run(node, progress, cancel) : Look(node);
        if (state.Content is not { } content)
        {
            throw new RefusedException(
                OutOfDate(state) ? "it is out of date: bring it up to date first"
                : state.Reason.Length > 0 ? state.Reason
                : "nothing was made here yet"
            );
        }

        return new Target(
            Value(state, content, cancel) ?? throw new DamagedDataException("what it is made of cannot be read"),
            content,
            [.. state.Node.Inputs.Select(i => (Look(i).Content ?? 0))]
        );
    }

    /// <summary>Only time is missing, here or where it stands on something that is out of date.</summary>
    private bool OutOfDate(NodeState state) => state.OutOfDate || state.Node.Inputs.Any(i => OutOfDate(Look(i)));

    /// <summary>The value after a node's first entries, counting those that are off; null when one of them did not run.</summary>
    public NodeValue? ValueAfter(int node, int entries, CancellationToken cancel = default)
    {
        var state = _known.TryGetValue(node, out var known) ? known : Look(node);
        return ContentAfter(state, Math.Clamp(entries, 0, state.Entries.Count) - 1) is { } content ? Value(state, content, cancel) : null;
    }

    /// <summary>Content after a node's first entries; null where it is not known.</summary>
    public UInt128? ContentAfter(int node, int entries) => ContentAfter(Look(node), Math.Clamp(entries, 0, Look(node).Entries.Count) - 1);

    private NodeState Work(int id, bool run, IProgress<double>? progress, CancellationToken cancel)
    {
        if (_known.TryGetValue(id, out var known))
        {
            return known;
        }

        var node = nodes.Node(id);
        var inputs = node.Inputs.Select(i => Work(i, run, null, cancel)).ToArray();
        var root = Continues(node) ? null : nodes.Root(node);
        var pass = new Pass(node, inputs, root is { Damage: null } ? root.Content : RootOf(node, inputs), root?.Damage);
        for (var i = 0; i < node.Entries.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            pass.Add(Step(pass, i, run, new Part(progress, i, node.Entries.Count), cancel));
        }

        return _known[id] = pass.State(Last(node, inputs));
    }

    private EntryState Step(Pass pass, int index, bool run, IProgress<double> progress, CancellationToken cancel)
    {
        var entry = pass.Node.Entries[index];
        var last = LastNote(pass.Node, index);
        if (!entry.On)
        {
            return new EntryState(EntryStanding.Off, null, string.Empty, null, pass.Content, 0);
        }

        if (pass.Blocked is { } blocked)
        {
            return Behind(
                blocked.Standing == EntryStanding.OutOfDate ? EntryStanding.OutOfDate : EntryStanding.Waiting,
                blocked.Reason,
                last
            );
        }

        if (!OperationRegistry.TryFind(entry.Operation, out var operation))
        {
            return Behind(EntryStanding.Refused, $"there is no operation '{entry.Operation}'", last);
        }

        if (entry.Version != operation.Version)
        {
            return Behind(
                EntryStanding.Refused,
                $"it was made by version {entry.Version} of {operation.Title}; this studio has version {operation.Version}: bring it up",
                last
            );
        }

        UInt128 key;
        ResourceKey[] reads;
        try
        {
            reads = [.. operation.Reads(pass.Node.Scope, entry.Parameters)];
            var resources = nodes.Resources(pass.Node);
            var used = reads.Select(r => (r, resources.Hash(r))).ToArray();
            key = ResultKey.Of(entry, pass.Node.Scope, OwnOf(pass, operation), [.. pass.Inputs.Select(s => s.Content!.Value)], used);
        }
        catch (Exception e) when (IsReason(e))
        {
            return Behind(EntryStanding.Refused, e.Message, last);
        }

        var note = results.Find(key);
        if (note is null && !run && !operation.Quick)
        {
            return Behind(EntryStanding.OutOfDate, string.Empty, last);
        }

        note ??= results.Once(key, () => Perform(pass, entry, operation, reads, key, progress, cancel), cancel);
        return note.Refusal is { } refusal
            ? Behind(EntryStanding.Refused, refusal, last)
            : new EntryState(EntryStanding.Done, note.Report, string.Empty, key, note.Content, note.Seconds);
    }

    private ResultNote Perform(
        Pass pass,
        Entry entry,
        Operation operation,
        ResourceKey[] reads,
        UInt128 key,
        IProgress<double> progress,
        CancellationToken cancel
    )
    {
        try
        {
            var input = InputOf(pass, operation, cancel);
            var watch = Stopwatch.StartNew();
            var context = new OperationContext(new DeclaredResources(nodes.Resources(pass.Node), reads), pass.Node.Scope, progress, cancel);
            var result = operation.Run(input, entry.Parameters, context);
            var note = new ResultNote(
                ContentHash.Of(result.Value),
                new EntryReport(result.Summary, result.Report),
                watch.Elapsed.TotalSeconds
            );
            results.Keep(key, note, result.Value, operation.Quick);
            return note;
        }
        catch (Exception e) when (e is DamagedDataException)
        {
            // Tomorrow the samples may be whole again: nothing is kept.
            return ResultNote.Refused(e.Message);
        }
        catch (Exception e) when (e is RefusedException or InvalidInputException)
        {
            var note = ResultNote.Refused(e.Message);
            results.Keep(key, note, null, operation.Quick);
            return note;
        }
        catch (ArgumentException e)
        {
            // A fault of this run, not of what was asked: it is told, and tried again the next time.
            return ResultNote.Refused(e.Message);
        }
    }

    /// <summary>Content of what an operation uses of its node; nothing where all it would find is nothing to it.</summary>
    private static UInt128? OwnOf(Pass pass, Operation operation) =>
        !pass.OnlyBefore(operation.Ignores) ? pass.Content
        : operation.RootAside ? null
        : pass.Root;

    private OperationInput InputOf(Pass pass, Operation operation, CancellationToken cancel) =>
        new(
            OwnOf(pass, operation) is { } own
                ? ValueAt(
                    pass.Node,
                    pass.Inputs,
                    pass.Entries,
                    pass.OnlyBefore(operation.Ignores) ? -1 : pass.Entries.Count - 1,
                    own,
                    cancel
                )
                : null,
            [
                .. pass.Inputs.Select(s =>
                    Value(s, s.Content!.Value, cancel) ?? throw new DamagedDataException("what it stands on cannot be read")
                ),
            ]
        );

    private NodeValue? Value(NodeState state, UInt128 content, CancellationToken cancel)
    {
        if (results.Value(content) is { } known)
        {
            return known;
        }

        for (var i = state.Entries.Count - 1; i >= -1; i--)
        {
            if (ContentAfter(state, i) == content)
            {
                var inputs = state.Node.Inputs.Select(n => Work(n, false, null, cancel)).ToArray();
                return ValueAt(state.Node, inputs, state.Entries, i, content, cancel);
            }
        }

        return null;
    }

    /// <summary>A value that is known to come out with that content: from the store, the root, or by running its entry again.</summary>
    private NodeValue ValueAt(
        LedgerNode node,
        IReadOnlyList<NodeState> inputs,
        IReadOnlyList<EntryState> entries,
        int index,
        UInt128 content,
        CancellationToken cancel
    )
    {
        if (results.Value(content) is { } known)
        {
            return known;
        }

        while (index >= 0 && entries[index].Standing != EntryStanding.Done)
        {
            index--;
        }

        NodeValue value;
        if (index < 0)
        {
            value = Continues(node)
                ? Value(inputs[0], content, cancel) ?? throw new DamagedDataException("what it stands on cannot be read")
                : nodes.Root(node)?.Load() ?? throw new DamagedDataException("the raw samples are gone");
        }
        else
        {
            var before = ContentAfter(node, entries, index - 1);
            var own = before is { } b ? ValueAt(node, inputs, entries, index - 1, b, cancel) : null;
            var below = inputs.Select(s => Value(s, s.Content!.Value, cancel)!).ToArray();
            var (entry, operation) = (node.Entries[index], OperationRegistry.Find(node.Entries[index].Operation));
            var context = new OperationContext(
                new DeclaredResources(nodes.Resources(node), [.. operation.Reads(node.Scope, entry.Parameters)]),
                node.Scope,
                null,
                cancel
            );
            value = operation.Run(new OperationInput(own, below), entry.Parameters, context).Value;
        }

        results.Remember(content, value);
        return value;
    }

    private UInt128? ContentAfter(NodeState state, int index) => ContentAfter(state.Node, state.Entries, index);

    private UInt128? ContentAfter(LedgerNode node, IReadOnlyList<EntryState> entries, int index)
    {
        for (var i = index; i >= 0; i--)
        {
            if (entries[i].Standing == EntryStanding.Done)
            {
                return entries[i].Content;
            }

            if (entries[i].Standing != EntryStanding.Off)
            {
                return null;
            }
        }

        return RootOf(node, Continues(node) ? [Work(node.Inputs[0], false, null, default)] : []);
    }

    /// <summary>Layers lie on the track below, a carried prop goes as it was recorded: without an entry they give what it gives.</summary>
    private static bool Continues(LedgerNode node) => node.Kind is NodeKind.Layers or NodeKind.Attached && node.Inputs.Count > 0;

    private UInt128? RootOf(LedgerNode node, IReadOnlyList<NodeState> inputs) =>
        Continues(node) ? inputs[0].Content
        : nodes.Root(node) is { Damage: null } root ? root.Content
        : null;

    private static EntryState Behind(EntryStanding standing, string reason, ResultNote? last) =>
        new(standing, last?.Report, reason, null, last is { Refusal: null } ? last.Content : null, last?.Seconds ?? 0);

    private ResultNote? LastNote(LedgerNode node, int index) =>
        index < node.LastKeys.Count && node.LastKeys[index] is { } key ? results.Find(key) : null;

    /// <summary>The content a node had when its last entry that is on was kept, if that value is still at hand.</summary>
    private UInt128? Last(LedgerNode node, IReadOnlyList<NodeState> inputs)
    {
        for (var i = node.Entries.Count - 1; i >= 0; i--)
        {
            if (node.Entries[i].On)
            {
                return LastNote(node, i) is { Refusal: null } note && results.Has(note.Content) ? note.Content : null;
            }
        }

        // Without an entry of its own it shows what the track below shows.
        return Continues(node) ? inputs[0].Shown : null;
    }

    /// <summary>What may be shown to a person as the reason an entry cannot run; anything else is a fault of ours.</summary>
    public static bool IsReason(Exception e) => e is RefusedException or ArgumentException or InvalidInputException or DamagedDataException;

    /// <summary>One way through a node's entries.</summary>
    private sealed class Pass(LedgerNode node, IReadOnlyList<NodeState> inputs, UInt128? root, string? damage)
    {
        private readonly List<EntryState> _entries = [];

        public LedgerNode Node => node;

        public IReadOnlyList<NodeState> Inputs => inputs;

        public IReadOnlyList<EntryState> Entries => _entries;

        /// <summary>After the entries so far.</summary>
        public UInt128? Content { get; private set; } = root;

        /// <summary>Before all entries.</summary>
        public UInt128? Root { get; } = root;

        /// <summary>No entries but of these operations have changed what the node holds before all of them.</summary>
        public bool OnlyBefore(IReadOnlyList<string> operations) =>
            _entries
                .Select((e, i) => (e, i))
                .All(x => x.e.Standing != EntryStanding.Done || operations.Contains(node.Entries[x.i].Operation));

        /// <summary>What nothing after it can pass.</summary>
        public (EntryStanding Standing, string Reason)? Blocked { get; private set; } =
            damage is not null ? (EntryStanding.Waiting, damage) : Below(inputs);

        public void Add(EntryState state)
        {
            _entries.Add(state);
            if (state.Standing == EntryStanding.Done)
            {
                Content = state.Content;
            }
            else if (state.Standing != EntryStanding.Off && Blocked is null)
            {
                Blocked = (state.Standing, state.Reason);
            }
        }

        public NodeState State(UInt128? last)
        {
            var refused = _entries.Find(e => e.Standing == EntryStanding.Refused);
            var stuck = _entries.Exists(e => e.Standing is not (EntryStanding.Done or EntryStanding.Off));
            var content = stuck ? null : Content;
            var reason =
                refused is not null ? $"{OperationRegistry.TitleOf(node.Entries[_entries.IndexOf(refused)].Operation)}: {refused.Reason}"
                : stuck || (Content is null && Blocked is { Reason.Length: > 0 }) ? Blocked!.Value.Reason
                : content is null ? "nothing was made here yet"
                : string.Empty;
            // Where only time is missing the result before is shown; where something is refused, what the entries that do run give.
            var shown = content ?? (Blocked is { Standing: EntryStanding.OutOfDate } ? last : null) ?? Content;
            return new NodeState(node, content, _entries, reason, shown);
        }

        private static (EntryStanding Standing, string Reason)? Below(IReadOnlyList<NodeState> inputs) =>
            inputs.FirstOrDefault(s => !s.UpToDate) is not { } below ? null
            : below.OutOfDate ? (EntryStanding.OutOfDate, string.Empty)
            : (EntryStanding.Waiting, below.Reason.Length > 0 ? below.Reason : "what it stands on is not there yet");
    }

    private sealed class Part(IProgress<double>? whole, int index, int count) : IProgress<double>
    {
        public void Report(double value) => whole?.Report((index + value) / count);
    }
}
