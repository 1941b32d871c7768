using Eidolon.Core;
using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>Pairs of solves that are being compared: worked out once, asked for several times by a page.</summary>
public sealed class CompareDesk(TakeService takes, SolveStates states, StateNotes notes, PairMemory memory)
{
    /// <summary>Two solves of a performer of a take, laid over each other.</summary>
    /// <param name="lay">none, floor or pelvis.</param>
    /// <exception cref="RefusedException">One of them is not there, or they have nothing in common; says which.</exception>
    public SolvePair Pair(int take, int node, string a, string b, string lay, CancellationToken cancel)
    {
        var open = takes.Open(take);
        var role = open.Performers.FirstOrDefault(r => r.Node.Id == node)
            ?? throw new RefusedException("nobody of this take is solved there");
        var laying = Enum.TryParse<Laying>(lay, ignoreCase: true, out var l) ? l : Laying.None;
        var (one, other) = (states.Find(open, role, a, cancel), states.Find(open, role, b, cancel));
        return memory.Of((one.Content, other.Content, laying, $"{a}|{b}"), () => new SolvePair(one, other, laying, notes));
    }
}
