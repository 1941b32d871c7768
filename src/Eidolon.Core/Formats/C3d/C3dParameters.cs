using System.Text;

namespace Eidolon.Core.Formats.C3d;

/// <summary>The parameter section of a C3D file.</summary>
internal static class C3dParameters
{
    /// <summary>More texts of one letter are no names of anything.</summary>
    private const int MostShortTexts = 4096;

    public static Dictionary<string, IReadOnlyList<C3dParameter>> Read(C3dBytes data, int start, string file)
    {
        var names = new Dictionary<int, string>();
        var byId = new Dictionary<int, List<C3dParameter>>();
        var order = new List<int>();
        var at = start + 4;
        long claimed = 0;
        for (var guard = 0; guard < 100_000; guard++)
        {
            var nameLength = Math.Abs((int)(sbyte)data.U8(at));
            if (nameLength == 0)
            {
                break;
            }

            var id = (int)(sbyte)data.U8(at + 1);
            if (id == 0)
            {
                throw new InvalidInputException(file, $"byte {at + 1}", "a parameter belongs to group 0, which cannot be");
            }

            var name = Encoding.UTF8.GetString(data.Slice(at + 2, nameLength)).ToUpperInvariant();
            var link = at + 2 + nameLength;
            var next = (int)(ushort)data.I16(link);
            var key = Math.Abs(id);
            if (!byId.ContainsKey(key))
            {
                byId[key] = [];
                order.Add(key);
            }

            if (id < 0)
            {
                names[key] = name;
            }
            else
            {
                var one = ReadOne(data, link + 2, name, file);
                claimed += one.Bytes;
                if (claimed > data.Length)
                {
                    throw new InvalidInputException(file, $"byte {link}", "the parameters lie over each other");
                }

                byId[key].Add(one);
            }

            if (next == 0)
            {
                break;
            }

            if (next < 3)
            {
                throw new InvalidInputException(file, $"byte {link}", "the parameters run in a circle");
            }

            at = link + next;
        }

        var groups = new Dictionary<string, IReadOnlyList<C3dParameter>>(StringComparer.Ordinal);
        foreach (var id in order)
        {
            groups[names.GetValueOrDefault(id, $"GROUP{id}")] = byId[id];
        }

        if (!groups.ContainsKey("POINT"))
        {
            throw new InvalidInputException(file, $"byte {start}", "the POINT group is missing");
        }

        return groups;
    }

    private static C3dParameter ReadOne(C3dBytes data, int at, string name, string file)
    {
        var type = (int)(sbyte)data.U8(at);
        var count = (int)data.U8(at + 1);
        if (type is not (-1 or 1 or 2 or 4) || count > 7)
        {
            throw new InvalidInputException(
                file,
                $"byte {at}",
                $"parameter {name} has type {type} with {count} dimensions, which is not known"
            );
        }

        var dims = new int[count];
        long total = 1;
        for (var i = 0; i < count; i++)
        {
            dims[i] = data.U8(at + 2 + i);
            total *= dims[i];
        }

        var body = at + 2 + count;
        var size = Math.Abs(type);
        if (total * size > data.Length - body)
        {
            throw new InvalidInputException(file, $"byte {at}", $"parameter {name} claims {total * size} bytes, more than the file has");
        }

        if (type == -1 && count > 0 && dims[0] < 2 && total > MostShortTexts)
        {
            throw new InvalidInputException(file, $"byte {at}", $"parameter {name} has {total} texts of a letter");
        }

        var numbers = Array.Empty<float>();
        var texts = Array.Empty<string>();
        if (type == -1)
        {
            texts = Texts(data, body, dims, (int)total);
        }
        else
        {
            numbers = new float[total];
            for (var i = 0; i < numbers.Length; i++)
            {
                numbers[i] = type switch
                {
                    1 => data.U8(body + i),
                    2 => data.I16(body + (i * 2)),
                    _ => data.F32(body + (i * 4)),
                };
            }
        }

        var end = body + (int)(total * size);
        var description =
            end < data.Length
                ? Encoding.UTF8.GetString(data.Slice(end + 1, Math.Min((int)data.U8(end), data.Length - end - 1)))
                : string.Empty;
        return new C3dParameter(name, type, dims, numbers, texts, description);
    }

    private static string[] Texts(C3dBytes data, int body, int[] dims, int total)
    {
        var width = dims.Length == 0 ? 1 : dims[0];
        if (width == 0 || total == 0)
        {
            return [];
        }

        var texts = new string[total / width];
        for (var i = 0; i < texts.Length; i++)
        {
            texts[i] = Encoding.UTF8.GetString(data.Slice(body + (i * width), width)).TrimEnd(' ', '\0');
        }

        return texts;
    }
}
