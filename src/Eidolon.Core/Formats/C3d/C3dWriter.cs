using System.Text;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Formats.C3d;

/// <summary>Writes C3D: Intel byte order, real data; parameters and analog of the document are kept.</summary>
public static class C3dWriter
{
    /// <summary>Writes little-endian with floats, in the units of the document.</summary>
    public static void Write(Stream stream, C3dDocument document)
    {
        var take = document.Take;
        var groups = Groups(document);
        var parameters = Section(groups, 0);
        var blocks = (parameters.Length + 511) / 512;
        var dataBlock = 2 + blocks;
        // The start of the data is itself a parameter of fixed size, so the second pass has the same length.
        parameters = Section(Groups(document, dataBlock), blocks);
        using var writer = new BinaryWriter(stream, Encoding.UTF8, leaveOpen: true);
        WriteHeader(writer, document, dataBlock);
        writer.Write(parameters);
        writer.Write(new byte[(blocks * 512) - parameters.Length]);
        var analogPerFrame = document.AnalogChannels * document.AnalogSamplesPerFrame;
        var up = document.UpAxis;
        var scale = (float)(1 / document.MetresPerUnit);
        for (var f = 0; f < take.FrameCount; f++)
        {
            foreach (var p in take.At(f))
            {
                var seen = MarkerTake.Seen(p);
                var v = seen ? C3dAxes.ToFile(p, up) * scale : default;
                writer.Write(v.X);
                writer.Write(v.Y);
                writer.Write(v.Z);
                writer.Write(seen ? 0f : -1f);
            }

            for (var a = 0; a < analogPerFrame; a++)
            {
                writer.Write(document.Analog[((long)f * analogPerFrame) + a]);
            }
        }

        writer.Flush();
        var used = (512L * (1 + blocks)) + ((long)take.FrameCount * 4 * ((take.MarkerCount * 4) + analogPerFrame));
        writer.Write(new byte[(int)(((used + 511) / 512 * 512) - used)]);
    }

    private static void WriteHeader(BinaryWriter w, C3dDocument document, int dataBlock)
    {
        var take = document.Take;
        var first = Math.Max(1, take.FirstFrame);
        var last = (long)first + take.FrameCount - 1;
        var header = new byte[512];
        using var m = new BinaryWriter(new MemoryStream(header));
        m.Write((byte)2);
        m.Write((byte)0x50);
        m.Write((ushort)take.MarkerCount);
        m.Write((ushort)(document.AnalogChannels * document.AnalogSamplesPerFrame));
        m.Write((ushort)Math.Min(first, 65535));
        m.Write((ushort)Math.Min(last, 65535));
        m.Write((ushort)10);
        m.Write(-1f);
        m.Write((ushort)dataBlock);
        m.Write((ushort)document.AnalogSamplesPerFrame);
        m.Write((float)take.FrameRate);
        w.Write(header);
    }

    private static List<(string Name, List<C3dParameter> Parameters)> Groups(C3dDocument document, int dataBlock = 0)
    {
        var take = document.Take;
        var groups = document.Groups.Select(g => (g.Key, g.Value.ToList())).ToList();
        List<C3dParameter> Group(string name)
        {
            var at = groups.FindIndex(g => g.Key == name);
            if (at < 0)
            {
                groups.Insert(0, (name, []));
                at = 0;
            }

            return groups[at].Item2;
        }

        void Set(string group, C3dParameter p)
        {
            var list = Group(group);
            var at = list.FindIndex(x => x.Name == p.Name);
            if (at < 0)
            {
                list.Add(p);
            }
            else
            {
                list[at] = p with { Description = list[at].Description };
            }
        }

        var point = Group("POINT");
        point.RemoveAll(p => p.Name.StartsWith("LABELS", StringComparison.Ordinal) || p.Name == "LONG_FRAMES");
        Set("POINT", C3dParameter.Number("USED", 2, (short)(ushort)take.MarkerCount));
        Set("POINT", C3dParameter.Number("SCALE", 4, -1));
        Set("POINT", C3dParameter.Number("RATE", 4, (float)take.FrameRate));
        Set("POINT", C3dParameter.Number("DATA_START", 2, dataBlock));
        Set("POINT", C3dParameter.Number("FRAMES", 2, (short)(ushort)Math.Min(take.FrameCount, 65535)));
        Set("POINT", C3dParameter.Text("UNITS", document.Units));
        Set("POINT", C3dParameter.Text("X_SCREEN", document.UpAxis.EndsWith('X') ? "+Y" : "+X"));
        Set("POINT", C3dParameter.Text("Y_SCREEN", document.UpAxis[0] == '-' ? document.UpAxis : "+" + document.UpAxis));
        foreach (var (chunk, i) in take.Names.Chunk(255).Select((c, i) => (c, i)))
        {
            Set("POINT", C3dParameter.Text(i == 0 ? "LABELS" : $"LABELS{i + 1}", chunk));
        }

        var first = Math.Max(1, take.FirstFrame);
        var last = (long)first + take.FrameCount - 1;
        if (last > 65535)
        {
            Set("POINT", C3dParameter.Number("LONG_FRAMES", 4, take.FrameCount));
        }

        if (last > 65535 || document.Groups.ContainsKey("TRIAL"))
        {
            Set("TRIAL", C3dParameter.Number("ACTUAL_START_FIELD", 2, (short)(first & 0xffff), (short)(first >> 16)));
            Set("TRIAL", C3dParameter.Number("ACTUAL_END_FIELD", 2, (short)(last & 0xffff), (short)(last >> 16)));
        }

        if (document.AnalogChannels == 0 && !document.Groups.ContainsKey("ANALOG"))
        {
            Set("ANALOG", C3dParameter.Number("USED", 2, 0));
        }

        return groups;
    }

    private static byte[] Section(List<(string Name, List<C3dParameter> Parameters)> groups, int blocks)
    {
        using var stream = new MemoryStream();
        using var w = new BinaryWriter(stream);
        w.Write((byte)1);
        w.Write((byte)0x50);
        w.Write((byte)Math.Min(255, blocks));
        w.Write((byte)84);
        for (var g = 0; g < groups.Count; g++)
        {
            var name = Encoding.UTF8.GetBytes(groups[g].Name);
            w.Write((sbyte)name.Length);
            w.Write((sbyte)-(g + 1));
            w.Write(name);
            w.Write((short)3);
            w.Write((byte)0);
            foreach (var p in groups[g].Parameters)
            {
                WriteOne(w, p, g + 1);
            }
        }

        w.Write((ushort)0);
        return stream.ToArray();
    }

    private static void WriteOne(BinaryWriter w, C3dParameter p, int group)
    {
        var name = Encoding.UTF8.GetBytes(p.Name);
        var description = Encoding.UTF8.GetBytes(p.Description);
        description = description[..Math.Min(255, description.Length)];
        using var bodyStream = new MemoryStream();
        using var body = new BinaryWriter(bodyStream);
        body.Write((sbyte)p.Type);
        body.Write((byte)p.Dimensions.Length);
        foreach (var d in p.Dimensions)
        {
            body.Write((byte)d);
        }

        if (p.Type == -1)
        {
            var width = p.Dimensions.Length == 0 ? 1 : p.Dimensions[0];
            foreach (var t in p.Texts)
            {
                var cell = new byte[width];
                Array.Fill(cell, (byte)' ');
                var text = Encoding.UTF8.GetBytes(t);
                text.AsSpan(0, Math.Min(width, text.Length)).CopyTo(cell);
                body.Write(cell);
            }
        }
        else
        {
            foreach (var v in p.Numbers)
            {
                if (p.Type == 1)
                {
                    body.Write((byte)v);
                }
                else if (p.Type == 2)
                {
                    body.Write((short)v);
                }
                else
                {
                    body.Write(v);
                }
            }
        }

        body.Write((byte)description.Length);
        body.Write(description);
        w.Write((sbyte)name.Length);
        w.Write((sbyte)group);
        w.Write(name);
        w.Write((ushort)(bodyStream.Length + 2));
        w.Write(bodyStream.ToArray());
    }
}
