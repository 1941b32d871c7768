namespace Eidolon.Core.Markers;

/// <summary>Gives trajectories that come and go a column each; a column that fell free rests for a while before it is used again.</summary>
/// <param name="rest">Frames a column rests.</param>
/// <param name="most">Columns there are at most.</param>
public sealed class SlotTable(int rest, int most)
{
    private readonly Dictionary<int, int> _slotOf = [];
    private readonly List<int> _id = [];
    private readonly List<int> _last = [];

    /// <summary>Columns in use so far.</summary>
    public int Count => _id.Count;

    /// <summary>The column of a trajectory in this frame, −1 when all are taken.</summary>
    public int SlotOf(int id, int frame)
    {
        if (_slotOf.TryGetValue(id, out var slot))
        {
            _last[slot] = frame;
            return slot;
        }

        slot = -1;
        for (var s = 0; s < _id.Count; s++)
        {
            if (_last[s] + rest < frame && (slot < 0 || _last[s] < _last[slot]))
            {
                slot = s;
            }
        }

        if (slot < 0)
        {
            if (_id.Count >= most)
            {
                return -1;
            }

            slot = _id.Count;
            _id.Add(id);
            _last.Add(frame);
        }
        else
        {
            _slotOf.Remove(_id[slot]);
            (_id[slot], _last[slot]) = (id, frame);
        }

        _slotOf[id] = slot;
        return slot;
    }

    /// <summary>Says until which frame a trajectory that has a column will need it.</summary>
    public void Hold(int id, int until) => _last[_slotOf[id]] = until;
}
