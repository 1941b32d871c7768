using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Names the dots of a take: the body is found once in the clearest frame, followed to both ends, and every fragment takes the name
/// most of its frames vote for. Names that are already there are kept.
/// </summary>
public static class TakeLabeller
{
    /// <summary>Labels for all subjects, one after the other; later ones only see what earlier ones left.</summary>
    public static LabelResult Label(MarkerTake take, MarkerSet set, IReadOnlyList<LabelSubject> subjects, CancellationToken cancel = default, IProgress<double>? progress = null)
    {
        var pieces = Fragments(take);
        var known = subjects.SelectMany(s => set.Markers.Select(m => Full(s, m.Name))).ToHashSet(StringComparer.Ordinal);
        foreach (var p in pieces)
        {
            if (known.Contains(take.Names[p.Column]))
            {
                (p.Name, p.Confidence, p.Pinned) = (take.Names[p.Column], 1, true);
            }
        }

        var doubts = new List<LabelDoubt>();
        for (var i = 0; i < subjects.Count; i++)
        {
            var follow = new Follow(take, pieces, subjects[i], doubts);
            follow.Run(cancel, p => progress?.Report((i + p) / subjects.Count));
        }

        return Collect(take, set, subjects, pieces, doubts);
    }

    private static string Full(LabelSubject s, string marker) => s.Prefix is null ? marker : $"{s.Prefix}:{marker}";

    private static List<Piece> Fragments(MarkerTake take)
    {
        var pieces = new List<Piece>();
        for (var m = 0; m < take.MarkerCount; m++)
        {
            var start = -1;
            for (var f = 0; f <= take.FrameCount; f++)
            {
                var seen = f < take.FrameCount && MarkerTake.Seen(take[f, m]);
                if (seen && start < 0)
                {
                    start = f;
                }
                else if (!seen && start >= 0)
                {
                    pieces.Add(new Piece(m, start, f - 1));
                    start = -1;
                }
            }
        }

        return [.. pieces.OrderBy(p => p.Start)];
    }

    private static LabelResult Collect(MarkerTake take, MarkerSet set, IReadOnlyList<LabelSubject> subjects, List<Piece> pieces, List<LabelDoubt> doubts)
    {
        var names = subjects.SelectMany(s => set.Markers.Select(m => Full(s, m.Name))).ToList();
        var loose = pieces.Where(p => p.Name is null).Select(p => p.Column).Distinct().ToList();
        var extra = loose.ConvertAll(c => take.Names[c]);
        var result = new MarkerTake([.. names, .. extra], take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame, Warnings = take.Warnings };
        long labelled = 0, visible = 0;
        foreach (var p in pieces)
        {
            var column = p.Name is null ? names.Count + loose.IndexOf(p.Column) : names.IndexOf(p.Name);
            for (var f = p.Start; f <= p.End; f++)
            {
                result[f, column] = take[f, p.Column];
            }

            visible += p.End - p.Start + 1;
            labelled += p.Name is null ? 0 : p.End - p.Start + 1;
            if (p.Name is not null && p.Confidence < 0.6)
            {
                doubts.Add(new LabelDoubt(p.Start, p.Name, $"sure by {p.Confidence * 100:0} % only, frames {p.Start} to {p.End}"));
            }
        }

        var all = pieces.ConvertAll(p => new LabelledPiece(p.Column, p.Start, p.End, p.Name, p.Confidence, p.Pinned));
        return new LabelResult(result, labelled / (double)Math.Max(1, visible), all, [.. doubts.OrderBy(d => d.Frame)]);
    }

    private sealed class Piece(int column, int start, int end)
    {
        public int Column => column;

        public int Start => start;

        public int End => end;

        public string? Name { get; set; }

        /// <summary>Place in the list of the subject being followed.</summary>
        public int Index { get; set; }

        public double Confidence { get; set; }

        public bool Pinned { get; set; }

        /// <summary>Votes by marker of the subject being followed.</summary>
        public Dictionary<int, double> Votes { get; } = [];

        public int Frames { get; set; }
    }

    /// <summary>Follows one performer through the take.</summary>
    private sealed class Follow
    {
        private readonly MarkerTake _take;
        private readonly LabelSubject _subject;
        private readonly List<Piece> _pieces;
        private readonly List<Piece>[] _at;
        private readonly List<LabelDoubt> _doubts;
        private readonly BodyFollower _follower;
        private readonly PoseFinder _finder;
        private readonly Dictionary<string, int> _index;
        private readonly List<int> _ids = [];
        private readonly List<Vector3> _points = [];

        public Follow(MarkerTake take, List<Piece> pieces, LabelSubject subject, List<LabelDoubt> doubts)
        {
            (_take, _subject, _doubts) = (take, subject, doubts);
            _index = subject.Performer.Markers.Select((m, i) => (Name: Full(subject, m.Name), i)).ToDictionary(x => x.Name, x => x.i, StringComparer.Ordinal);
            _pieces = [.. pieces.Where(p => p.Name is null || _index.ContainsKey(p.Name))];
            _at = new List<Piece>[take.FrameCount];
            for (var f = 0; f < _at.Length; f++)
            {
                _at[f] = [];
            }

            foreach (var p in _pieces)
            {
                p.Votes.Clear();
                p.Frames = 0;
                for (var f = p.Start; f <= p.End; f++)
                {
                    _at[f].Add(p);
                }
            }

            _follower = new BodyFollower(BodyModel.Create(subject.Performer));
            _finder = new PoseFinder(subject.Performer, subject.Poses);
            for (var i = 0; i < _pieces.Count; i++)
            {
                _pieces[i].Index = i;
            }
        }

        public void Run(CancellationToken cancel, Action<double> progress)
        {
            var (frame, pose, fit) = Begin(cancel);
            if (pose is null || fit < 0.25)
            {
                _doubts.Add(new LabelDoubt(0, _subject.Prefix ?? _subject.Performer.Name, "the body was not found in any frame: nothing is named"));
                return;
            }

            var done = 0;
            foreach (var direction in new[] { 1, -1 })
            {
                _follower.Begin(pose);
                var lost = 0;
                for (var f = frame; f >= 0 && f < _take.FrameCount; f += direction)
                {
                    cancel.ThrowIfCancellationRequested();
                    progress(++done / (double)_take.FrameCount);
                    lost = Step(f) ? 0 : lost + 1;
                    if (lost >= 12 && lost % 60 == 12)
                    {
                        Restart(f);
                    }
                }
            }

            Decide();
        }

        /// <summary>Tries a handful of frames with many dots and takes the one the body fits best.</summary>
        private (int Frame, ModelPose? Pose, double Fit) Begin(CancellationToken cancel)
        {
            (int, ModelPose?, double) best = (0, null, 0);
            var candidates = Enumerable.Range(0, 40).Select(i => i * Math.Max(1, _take.FrameCount - 1) / 39).Distinct().OrderByDescending(f => _at[f].Count).Take(8).ToArray();
            foreach (var f in candidates)
            {
                cancel.ThrowIfCancellationRequested();
                if (_at[f].Count < 8)
                {
                    continue;
                }

                var (pose, _, fit) = _finder.Find([.. _at[f].Select(p => _take[f, p.Column])]);
                if (fit > best.Item3)
                {
                    best = (f, pose, fit);
                }

                if (fit > 0.85)
                {
                    break;
                }
            }

            return best;
        }

        private void Restart(int frame)
        {
            if (_at[frame].Count < 8)
            {
                return;
            }

            var (found, _, fit) = _finder.Find([.. _at[frame].Select(p => _take[frame, p.Column])]);
            if (fit > 0.4)
            {
                _follower.Begin(found);
            }
        }

        /// <summary>One frame; every held fragment votes for its marker by how near the solved body carries it. False when the body is lost.</summary>
        private bool Step(int f)
        {
            _ids.Clear();
            _points.Clear();
            foreach (var p in _at[f])
            {
                _ids.Add(p.Index);
                _points.Add(_take[f, p.Column]);
            }

            return _follower.Step(_ids, _points, id => _pieces[id].Pinned ? _index[_pieces[id].Name!] : -1, (id, marker, d) =>
            {
                var p = _pieces[id];
                p.Frames++;
                if (d <= BodyFollower.Stray)
                {
                    p.Votes[marker] = p.Votes.GetValueOrDefault(marker) + Math.Max(0.1, 1 - (d / BodyFollower.Stray));
                }
            });
        }

        /// <summary>Best votes first; a name is given once a frame.</summary>
        private void Decide()
        {
            var busy = new Dictionary<int, List<(int Start, int End)>>();
            foreach (var p in _pieces.Where(p => p.Pinned))
            {
                Busy(busy, _index[p.Name!]).Add((p.Start, p.End));
            }

            foreach (var p in _pieces.Where(p => !p.Pinned && p.Votes.Count > 0).OrderByDescending(p => p.Votes.Values.Max()))
            {
                var (marker, votes) = p.Votes.MaxBy(v => v.Value);
                var length = p.End - p.Start + 1;
                var share = votes / length;
                if (share < 0.25 || Busy(busy, marker).Exists(b => b.Start <= p.End && p.Start <= b.End))
                {
                    continue;
                }

                Busy(busy, marker).Add((p.Start, p.End));
                p.Name = Full(_subject, _subject.Performer.Markers[marker].Name);
                p.Confidence = Math.Min(1, share * 1.15) * (votes / p.Votes.Values.Sum());
            }
        }

        private static List<(int Start, int End)> Busy(Dictionary<int, List<(int, int)>> busy, int marker)
        {
            if (!busy.TryGetValue(marker, out var list))
            {
                busy[marker] = list = [];
            }

            return list;
        }
    }
}
