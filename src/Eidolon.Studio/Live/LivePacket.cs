using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;

namespace Eidolon.Studio.Live;

/// <summary>
/// One pushed frame, little-endian typed arrays: points (float32 x, y, z a slot), marks (for each slot an int16 name, −1 for none, and
/// a uint16 with a bit for each camera that sees it), figures (for each body, then for each character that is driven,
/// 0 for nobody, 1 or, where the suit alone says it, 2, then pelvis and turns as float32), props (place, turn, trust: 8 float32 each).
/// </summary>
/// <remarks>Names: body · 256 + marker; props begin at 16384.</remarks>
internal sealed record LivePacket(byte[] Points, byte[] Marks, byte[] Figures, byte[] Props)
{
    private const int PropNames = 16384;

    public static LivePacket Of(
        Vector3[] slots,
        TrackedPoint[] seen,
        Dictionary<int, int> slotOf,
        List<LiveFigure> bodies,
        List<RigidBodyTracker> props,
        List<LiveCharacter> characters,
        double smoothing,
        double seconds,
        bool silent = false
    )
    {
        var marks = new short[slots.Length * 2];
        for (var i = 0; i < slots.Length; i++)
        {
            marks[i * 2] = -1;
        }

        foreach (var p in seen)
        {
            if (slotOf.TryGetValue(p.Id, out var slot))
            {
                marks[(slot * 2) + 1] = unchecked((short)(ushort)p.Cameras);
            }
        }

        Name(marks, slotOf, bodies, props);
        var figures = new List<float>();
        foreach (var b in bodies)
        {
            b.Take(smoothing / 1000, 1 / 60.0, silent);
            var (at, turns) = b.Shown;
            figures.Add(State(b));
            figures.AddRange([at.X, at.Y, at.Z]);
            figures.AddRange(MemoryMarshal.Cast<Quaternion, float>(turns.Span));
        }

        foreach (var c in characters)
        {
            if (c.Body.Found)
            {
                c.Step(seconds);
            }

            figures.Add(State(c.Body));
            figures.AddRange([c.Retarget.Root.X, c.Retarget.Root.Y, c.Retarget.Root.Z]);
            figures.AddRange(MemoryMarshal.Cast<Quaternion, float>(c.Retarget.Turns.Span));
        }

        var poses = new float[props.Count * 8];
        for (var i = 0; i < props.Count; i++)
        {
            var p = props[i].Pose;
            float[] row = [p.Position.X, p.Position.Y, p.Position.Z, p.Rotation.X, p.Rotation.Y, p.Rotation.Z, p.Rotation.W, p.Trust];
            row.CopyTo(poses, i * 8);
        }

        return new LivePacket(
            MemoryMarshal.AsBytes<Vector3>(slots).ToArray(),
            MemoryMarshal.AsBytes<short>(marks).ToArray(),
            MemoryMarshal.AsBytes(CollectionsMarshal.AsSpan(figures)).ToArray(),
            MemoryMarshal.AsBytes<float>(poses).ToArray()
        );
    }

    private static float State(LiveFigure figure) =>
        figure.BySuit ? 2
        : figure.Found ? 1
        : 0;

    private static void Name(short[] marks, Dictionary<int, int> slotOf, List<LiveFigure> bodies, List<RigidBodyTracker> props)
    {
        for (var b = 0; b < bodies.Count; b++)
        {
            foreach (var (id, marker) in bodies[b].Ring.Found ? bodies[b].Ring.Held : new Dictionary<int, int>())
            {
                if (slotOf.TryGetValue(id, out var slot))
                {
                    marks[slot * 2] = (short)((b * 256) + marker);
                }
            }
        }

        for (var p = 0; p < props.Count; p++)
        {
            for (var m = 0; m < props[p].Ids.Count; m++)
            {
                if (props[p].Ids[m] >= 0 && slotOf.TryGetValue(props[p].Ids[m], out var slot))
                {
                    marks[slot * 2] = (short)(PropNames + (p * 64) + m);
                }
            }
        }
    }
}
