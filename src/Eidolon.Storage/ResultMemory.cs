using Eidolon.Core.Operations;

namespace Eidolon.Storage;

/// <summary>The states looked at last, up to a number of bytes: a long take must not push the studio out of memory.</summary>
public sealed class ResultMemory(long most)
{
    private readonly Dictionary<UInt128, LinkedListNode<(UInt128 Hash, OperationResult Result, long Bytes)>> _known = [];
    private readonly LinkedList<(UInt128 Hash, OperationResult Result, long Bytes)> _order = new();
    private long _bytes;

    public OperationResult? Find(UInt128 hash)
    {
        lock (_known)
        {
            if (!_known.TryGetValue(hash, out var node))
            {
                return null;
            }

            _order.Remove(node);
            _order.AddFirst(node);
            return node.Value.Result;
        }
    }

    public void Keep(UInt128 hash, OperationResult result)
    {
        lock (_known)
        {
            if (_known.ContainsKey(hash))
            {
                return;
            }

            var bytes = Size(result.Data);
            _known[hash] = _order.AddFirst((hash, result, bytes));
            _bytes += bytes;
            while (_bytes > most && _order.Count > 1)
            {
                var (oldest, _, size) = _order.Last!.Value;
                _order.RemoveLast();
                _known.Remove(oldest);
                _bytes -= size;
            }
        }
    }

    private static long Size(TakeData data) =>
        1024 + (12L * (data.Markers?.Positions.Length ?? 0)) + Size(data.Performer) + Size(data.Character);

    private static long Size(Core.Skeletons.Motion? motion) =>
        motion is null ? 0 : (16L * motion.Rotations.Length) + (12L * motion.Translations.Length);
}
