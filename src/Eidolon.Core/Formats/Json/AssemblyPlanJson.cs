using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats.Json;

/// <summary>Assembly plans as in the command line's contract.</summary>
public static class AssemblyPlanJson
{
    /// <summary>Of an overlap when nothing is said, frames.</summary>
    public const int UsualOverlap = 36;

    private const int MostRepeats = 10_000,
        MostSmoothed = 600;

    /// <summary>A clip is put no farther than this, metres.</summary>
    private const double MostMoved = 1000;

    private static readonly Dictionary<string, BlendPart> _parts = new()
    {
        ["trunk"] = BlendPart.Trunk,
        ["head"] = BlendPart.Head,
        ["armL"] = BlendPart.ArmL,
        ["armR"] = BlendPart.ArmR,
    };

    /// <summary>What a plan and a track's set-up say alike of a clip.</summary>
    private static readonly string[] Shared =
    [
        "start",
        "end",
        "overlap",
        "meet",
        "speed",
        "repeat",
        "mirror",
        "reverse",
        "shape",
        "parts",
        "smooth",
        "moved",
    ];

    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    /// <exception cref="InvalidInputException">Something is no plan; the place in it is named.</exception>
    public static AssemblyPlan Read(byte[] bytes, string file) => JsonInput.Read(bytes, file, root => From(root, file));

    private static AssemblyPlan From(JsonElement root, string file)
    {
        var plan = new Fields(root, string.Empty, file);
        var usual = plan.Whole("overlap", UsualOverlap, 0);
        var clips = plan.List("clips").Select((c, i) => Clip(c, i, usual)).ToList();
        return clips.Count == 0
            ? throw new InvalidInputException(file, "clips", "there is no clip in it")
            : new AssemblyPlan(
                plan.Number("frameRate") is { } rate
                    ? rate is > 0 and <= 10_000
                        ? rate
                        : throw new InvalidInputException(file, "frameRate", $"{rate} is no frame rate")
                    : null,
                plan.Flag("inPlace"),
                clips,
                plan.Under("loop")?.Object(),
                [.. plan.List("layers").Select(Layer)]
            );
    }

    /// <summary>The plan of a track: its clips as its set-up says them, each by a file's name, and what follows them.</summary>
    /// <param name="setUp">Parameters of the track's clips.</param>
    /// <param name="rate">Frames a second.</param>
    /// <param name="file">Name of the file that a node's motion is in.</param>
    /// <param name="loop">Parameters of the track's loop; null for none.</param>
    /// <param name="layers">Parameters of the layers over it, in order.</param>
    public static byte[] Write(JsonObject setUp, double rate, Func<int, string> file, JsonObject? loop, IEnumerable<JsonObject> layers)
    {
        var clips = new JsonArray();
        foreach (var clip in (JsonArray)setUp["clips"]!)
        {
            clips.Add((JsonNode)Said((JsonObject)clip!, "file", file((int)clip!["node"]!)));
        }

        var plan = new JsonObject
        {
            ["frameRate"] = rate,
            ["inPlace"] = setUp["inPlace"]?.DeepClone() ?? false,
            ["overlap"] = setUp["overlap"]?.DeepClone() ?? UsualOverlap,
            ["clips"] = clips,
            ["layers"] = new JsonArray([.. layers.Select(l => l.DeepClone())]),
        };
        if (loop is not null)
        {
            plan["loop"] = loop.DeepClone();
        }

        return JsonSerializer.SerializeToUtf8Bytes(plan, Indented);
    }

    /// <summary>The clips of a plan as the set-up of a track says them.</summary>
    /// <param name="bytes">A plan that <see cref="Read"/> has read.</param>
    /// <param name="node">The node whose motion a file's name means; the second value is the clip's place.</param>
    public static JsonObject ClipsOf(byte[] bytes, Func<string, int, int> node)
    {
        var plan = (JsonObject)JsonNode.Parse(bytes)!;
        var clips = new JsonArray();
        foreach (var (clip, i) in ((JsonArray)plan["clips"]!).Select((c, i) => ((JsonObject)c!, i)))
        {
            clips.Add((JsonNode)Said(clip, "node", node((string)clip["file"]!, i)));
        }

        var said = new JsonObject { ["clips"] = clips, ["overlap"] = plan["overlap"]?.DeepClone() ?? UsualOverlap };
        if (plan["inPlace"] is JsonValue inPlace)
        {
            said["inPlace"] = inPlace.DeepClone();
        }

        return said;
    }

    private static JsonObject Said(JsonObject clip, string name, JsonNode source)
    {
        var said = new JsonObject { [name] = source };
        foreach (var field in Shared.Where(f => clip[f] is not null))
        {
            said[field] = clip[field]!.DeepClone();
        }

        return said;
    }

    private static PlanClip Clip(Fields c, int index, int usual)
    {
        var start = c.Whole("start", 0, 0);
        int? end = c.Has("end") ? c.Whole("end", 0, start + 1) : null;
        return new PlanClip(c.Needed("file"), start, end, Play(c, index == 0 ? 0 : usual));
    }

    /// <summary>How a clip is played, as the fields of an object say it.</summary>
    /// <param name="place">Of the object, for messages.</param>
    /// <param name="usual">Overlap when nothing is said, frames.</param>
    public static ClipPlay PlayOf(JsonObject clip, string place, string file, int usual) =>
        Play(new Fields(JsonSerializer.SerializeToElement(clip), place, file), usual);

    private static ClipPlay Play(Fields c, int usual) =>
        new(
            c.Text("overlap", only: ["best"]) is not null ? null : c.Whole("overlap", usual, 0),
            c.Under("meet") is { } meet ? MeetOf(meet) : Meet.Best
        )
        {
            Speed = c.Number("speed") switch
            {
                null => 1,
                >= .01 and <= 100 and { } speed => speed,
                var speed => throw c.Wrong("speed", $"{speed} is no speed; 0.01 to 100 are"),
            },
            Repeat = c.Whole("repeat", 1, 1, MostRepeats),
            Mirror = c.Flag("mirror"),
            Reverse = c.Flag("reverse"),
            Shape = ShapeOf(c),
            Smooth = c.Whole("smooth", 0, 0, MostSmoothed),
            Nudge = c.Under("moved") is { } moved
                ? new ClipNudge(
                    Metres(moved, "x"),
                    Metres(moved, "z"),
                    moved.Number("turn") ?? 0,
                    moved.Text("axes", ["scene", "own"]) == "own"
                )
                : null,
        };

    private static double Metres(Fields moved, string name) =>
        moved.Number(name) is not { } d ? 0
        : Math.Abs(d) <= MostMoved ? d
        : throw moved.Wrong(name, $"{d} m is farther than a scene reaches");

    private static OverlapShape ShapeOf(Fields c)
    {
        var shape = One(c, "shape", BlendShape.Smooth);
        if (c.Under("parts") is not { } said)
        {
            return shape == BlendShape.Smooth ? OverlapShape.Usual : OverlapShape.Usual with { Shape = shape };
        }

        var parts = new Dictionary<BlendPart, (float, float)>();
        foreach (var name in said.Names())
        {
            var part = _parts.TryGetValue(name, out var p)
                ? p
                : throw said.Wrong(name, $"there is no such part; {string.Join(", ", _parts.Keys)} are");
            parts[part] =
                said.Numbers(name) is [var from, var to] && from >= 0 && from < to && to <= 1
                    ? ((float)from, (float)to)
                    : throw said.Wrong(name, "two shares of the overlap are expected, from and to, 0 to 1");
        }

        return new OverlapShape(shape, parts);
    }

    private static Meet MeetOf(Fields m)
    {
        BodyRole? joint = null;
        if (m.Text("joint") is { } said)
        {
            joint =
                Enum.TryParse<BodyRole>(said, out var role) && Enum.IsDefined(role) && !char.IsDigit(said[0])
                    ? role
                    : throw m.Wrong("joint", $"'{said}' is not a body role");
        }

        var frame = m.IsNumber("moment") ? m.Whole("moment", 0, 0) : (int?)null;
        return new Meet(
            joint,
            frame is null ? One(m, "moment", MeetMoment.Middle) : MeetMoment.Middle,
            One(m, "place", MeetPlace.Floor),
            One(m, "turn", MeetTurn.Heading)
        )
        {
            Frame = frame,
        };
    }

    private static T One<T>(Fields fields, string name, T usual)
        where T : struct, Enum =>
        fields.Text(name, [.. Enum.GetNames<T>().Select(n => n.ToLowerInvariant())]) is { } word
            ? Enum.Parse<T>(word, ignoreCase: true)
            : usual;

    private static JsonObject Layer(Fields layer)
    {
        layer.Needed("joint");
        layer.Text("mode", only: ["additive"]);
        return layer.Object();
    }

    /// <summary>The fields of one object of a plan, by their names.</summary>
    private sealed class Fields(JsonElement element, string place, string file)
    {
        public bool Has(string name) => element.TryGetProperty(name, out var value) && value.ValueKind != JsonValueKind.Null;

        public bool IsNumber(string name) => Has(name) && element.GetProperty(name).ValueKind == JsonValueKind.Number;

        public IEnumerable<string> Names() => element.EnumerateObject().Select(p => p.Name);

        public double[] Numbers(string name) =>
            element.GetProperty(name) is { ValueKind: JsonValueKind.Array } list
            && list.EnumerateArray().All(v => v.ValueKind == JsonValueKind.Number)
                ? [.. list.EnumerateArray().Select(v => v.GetDouble())]
                : [];

        public InvalidInputException Wrong(string name, string reason) => new(file, At(name), reason);

        public JsonObject Object() => JsonObject.Create(element.Clone())!;

        public string Needed(string name) => Text(name) ?? throw Wrong(name, "it is missing");

        public string? Text(string name, string[]? only = null)
        {
            if (!Has(name))
            {
                return null;
            }

            var value = element.GetProperty(name);
            if (value.ValueKind == JsonValueKind.String && (only is null || only.Contains(value.GetString())))
            {
                return value.GetString();
            }

            // An overlap is a word or a number: the number is read elsewhere.
            return value.ValueKind == JsonValueKind.Number && only is ["best"]
                ? null
                : throw Wrong(name, only is null ? "a text is expected" : $"one of {string.Join(", ", only)} is expected");
        }

        public bool Flag(string name) =>
            Has(name)
            && element.GetProperty(name).ValueKind switch
            {
                JsonValueKind.True => true,
                JsonValueKind.False => false,
                _ => throw Wrong(name, "true or false is expected"),
            };

        public double? Number(string name) =>
            !Has(name) ? null
            : element.GetProperty(name) is { ValueKind: JsonValueKind.Number } v && v.TryGetDouble(out var d) && double.IsFinite(d) ? d
            : throw Wrong(name, "a number is expected");

        public int Whole(string name, int usual, int least, int most = 10_000_000) =>
            Number(name) is not { } d ? usual
            : d != Math.Floor(d) ? throw Wrong(name, $"{d} is no whole number")
            : d >= least && d <= most ? (int)d
            : throw Wrong(name, d < least ? $"{d} is too small: at least {least}" : $"{d} is too large: at most {most}");

        public Fields? Under(string name) =>
            !Has(name) ? null
            : element.GetProperty(name) is { ValueKind: JsonValueKind.Object } o ? new Fields(o, At(name), file)
            : throw Wrong(name, "an object is expected");

        public IEnumerable<Fields> List(string name)
        {
            if (!Has(name))
            {
                return [];
            }

            var list = element.GetProperty(name);
            return list.ValueKind == JsonValueKind.Array
                ? list.EnumerateArray()
                    .Select(
                        (e, i) =>
                            e.ValueKind == JsonValueKind.Object
                                ? new Fields(e, $"{At(name)}[{i}]", file)
                                : throw new InvalidInputException(file, $"{At(name)}[{i}]", "an object is expected")
                    )
                    .ToList()
                : throw Wrong(name, "a list is expected");
        }

        private string At(string name) => place.Length == 0 ? name : $"{place}.{name}";
    }
}
