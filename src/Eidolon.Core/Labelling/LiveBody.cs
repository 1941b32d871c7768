using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// One performer live: found among nameless points, followed, and found again when lost. Finding takes longer than a frame, so it
/// is a piece of work of its own that may run beside; points keep their ids in the meantime.
/// </summary>
public sealed class LiveBody
{
    /// <summary>Not seen for so long is lost, seconds.</summary>
    private const double Patience = 0.1;

    private readonly LabelSubject _subject;
    private readonly ArticulatedModel _model;
    private readonly BodyFollower _follower;
    private readonly Motion _frame;
    private readonly Quaternion[] _turns;
    private Vector3 _root;
    private bool _shown;
    private int _lost;
    private readonly int _patience;

    /// <param name="rate">Frames a second.</param>
    public LiveBody(LabelSubject subject, double rate)
    {
        _subject = subject;
        _model = BodyModel.Create(subject.Performer);
        _follower = new BodyFollower(_model, rate, new SolveOptions { RobustScale = 0.04, MaximumSteps = 4 });
        _frame = new Motion(subject.Performer.Skeleton, rate, 1);
        _patience = Math.Max(3, (int)(Patience * rate));
        _turns = new Quaternion[subject.Performer.Skeleton.Count];
        Array.Fill(_turns, Quaternion.Identity);
    }

    /// <summary>Name of the performer.</summary>
    public string Name => _subject.Performer.Name;

    /// <summary>The performer's own skeleton, metres.</summary>
    public Skeleton Skeleton => _subject.Performer.Skeleton;

    /// <summary>The performer's markers with their bones.</summary>
    public IReadOnlyList<PerformerMarker> Markers => _subject.Performer.Markers;

    /// <summary>The body was found and is followed.</summary>
    public bool Found { get; private set; }

    /// <summary>The marker of each point id.</summary>
    public IReadOnlyDictionary<int, int> Held => _follower.Held;

    /// <summary>Root place and local turns as they are to be shown, smoothed.</summary>
    public (Vector3 Root, ReadOnlyMemory<Quaternion> Turns) Shown => (_root, _turns);

    /// <summary>Moves what is shown towards the last frame: first order, time constant in seconds (it is also the delay); 0 shows the frame itself.</summary>
    /// <param name="step">Seconds since the last call.</param>
    public void Smooth(double timeConstant, double step)
    {
        var share = timeConstant <= 0 || !_shown ? 1 : (float)(1 - Math.Exp(-step / timeConstant));
        _root = Vector3.Lerp(_root, _frame.Translations[0], share);
        for (var j = 0; j < _turns.Length; j++)
        {
            _turns[j] = share >= 1 ? _frame.Rotations[j] : Quaternion.Slerp(_turns[j], _frame.Rotations[j], share);
        }

        _shown = Found;
    }

    /// <summary>One frame of the points that nobody else holds.</summary>
    public void Step(IReadOnlyList<int> ids, IReadOnlyList<Vector3> points)
    {
        if (!Found)
        {
            return;
        }

        _lost = _follower.Step(ids, points) ? 0 : _lost + 1;
        if (_lost > _patience)
        {
            Found = false;
            return;
        }

        BodyModel.WriteFrame(_model, _follower.Pose, _frame, 0);
    }

    /// <summary>Looks for the body in one frame's points; changes nothing and may run on another thread.</summary>
    public LiveFind? Find(IReadOnlyList<int> ids, IReadOnlyList<Vector3> points)
    {
        if (points.Count < 12)
        {
            return null;
        }

        var (pose, dots, fit) = new PoseFinder(_subject.Performer, _subject.Poses).Find([.. points]);
        return fit < 0.45
            ? null
            : new LiveFind(pose, [.. dots.Select((d, m) => (Id: d < 0 ? -1 : ids[d], Marker: m)).Where(x => x.Id >= 0)], fit);
    }

    /// <summary>Takes a find over.</summary>
    public void Begin(LiveFind find)
    {
        _follower.Begin(find.Pose);
        foreach (var (id, marker) in find.Matches)
        {
            _follower.Hold(id, marker);
        }

        (Found, _lost) = (true, 0);
    }
}
