using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;

namespace Eidolon.Core.Formats.Json;

/// <summary>
/// Camera files: <c>{ "cameras": [ { "name", "width", "height", "focal", "centre": [u, v], "distortion": [k1, k2],
/// "rotation": [9, row by row, world to camera], "translation": [3] } ] }</c>, metres and pixels. Without rotation a camera is known
/// by its maker's figures only.
/// </summary>
public static class CameraRingJson
{
    /// <summary>Reads a calibrated ring; metres and pixels.</summary>
    /// <exception cref="InvalidInputException">A camera is missing something or is impossible; says which.</exception>
    public static CameraRing Read(byte[] bytes, string file) => JsonInput.Read(bytes, file, root => From(root, file));

    /// <summary>Reads any number of cameras, one at least: those of films need no partner.</summary>
    /// <exception cref="InvalidInputException">A camera is missing something or is impossible; says which.</exception>
    public static IReadOnlyList<CameraModel> ReadCameras(byte[] bytes, string file) =>
        JsonInput.Read(bytes, file, root =>
            Cameras(root, file) is { Count: > 0 } cameras
                ? cameras
                : throw new InvalidInputException(file, "cameras", "at least one camera is needed")
        );

    private static List<CameraModel> Cameras(JsonElement root, string file)
    {
        var cameras = new List<CameraModel>();
        foreach (var c in JsonInput.Property(root, "cameras", JsonValueKind.Array, "cameras", file).EnumerateArray())
        {
            cameras.Add(Camera(c, $"cameras[{cameras.Count}]", file));
        }

        return cameras;
    }

    private static CameraRing From(JsonElement root, string file)
    {
        var cameras = Cameras(root, file);
        if (cameras.Count < 2)
        {
            throw new InvalidInputException(file, "cameras", $"at least two cameras are needed, the file has {cameras.Count}");
        }

        var made =
            root.TryGetProperty("calibratedUtc", out var m)
            && m.ValueKind == JsonValueKind.String
            && DateTime.TryParse(m.GetString(), CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind, out var when)
                ? when
                : (DateTime?)null;
        return new CameraRing(
            cameras,
            root.TryGetProperty("reprojectionPixels", out var r) && r.ValueKind == JsonValueKind.Number ? r.GetDouble() : 0,
            made
        );
    }

    /// <summary>Writes what <see cref="Read(byte[], string)"/> reads.</summary>
    public static string Write(CameraRing ring)
    {
        var root = new JsonObject
        {
            ["cameras"] = new JsonArray([.. ring.Cameras.Select(c => (JsonNode)Write(c))]),
            ["reprojectionPixels"] = ring.ReprojectionPixels,
        };
        if (ring.CalibratedUtc is { } when)
        {
            root["calibratedUtc"] = when.ToString("O", CultureInfo.InvariantCulture);
        }

        return root.ToJsonString(new JsonSerializerOptions { WriteIndented = true });
    }

    /// <summary>One camera as <see cref="Write(CameraModel, bool)"/> gives it.</summary>
    /// <exception cref="InvalidInputException">It is missing something or is impossible.</exception>
    public static CameraModel ReadCamera(string json, string file) =>
        JsonInput.Read(System.Text.Encoding.UTF8.GetBytes(json), file, root => Camera(root, "camera", file));

    /// <summary>One camera as it stands in a camera file.</summary>
    /// <param name="placed">False leaves out where it stands: it is known by its maker's figures only.</param>
    public static JsonObject Write(CameraModel c, bool placed = true)
    {
        var r = c.Rotation.Transposed;
        var json = new JsonObject
        {
            ["name"] = c.Name,
            ["width"] = c.Width,
            ["height"] = c.Height,
            ["focal"] = c.Focal,
            ["centre"] = new JsonArray(c.CentreX, c.CentreY),
            ["distortion"] = new JsonArray(c.K1, c.K2),
        };
        if (placed)
        {
            json["rotation"] = new JsonArray(r.X.X, r.X.Y, r.X.Z, r.Y.X, r.Y.Y, r.Y.Z, r.Z.X, r.Z.Y, r.Z.Z);
            json["translation"] = new JsonArray(c.Translation.X, c.Translation.Y, c.Translation.Z);
        }

        return json;
    }

    private static CameraModel Camera(JsonElement c, string place, string file)
    {
        var name = JsonInput.Property(c, "name", JsonValueKind.String, place, file).GetString()!;
        double N(string key) => JsonInput.Property(c, key, JsonValueKind.Number, place, file).GetDouble();
        var (width, height, focal) = (N("width"), N("height"), N("focal"));
        if (!(width is >= 16 and <= 65536) || !(height is >= 16 and <= 65536) || !(focal is > 1 and < 1e6))
        {
            throw new InvalidInputException(
                file,
                place,
                $"camera '{name}': a picture of 16 to 65536 pixels and a focal length above 1 pixel are expected"
            );
        }

        var nominal = CameraModel.Nominal(name, (int)width, (int)height, focal);
        var centre = Numbers(c, "centre", 2, place, file) ?? [nominal.CentreX, nominal.CentreY];
        var bend = Numbers(c, "distortion", 2, place, file) ?? [0, 0];
        nominal = nominal with { CentreX = centre[0], CentreY = centre[1], K1 = bend[0], K2 = bend[1] };
        if (Numbers(c, "rotation", 9, place, file) is not { } r)
        {
            return nominal;
        }

        var turn = Matrix3d.FromRows(new(r[0], r[1], r[2]), new(r[3], r[4], r[5]), new(r[6], r[7], r[8]));
        var off = (turn.Transposed * turn.X) - new Vector3d(1, 0, 0);
        if (
            !(off.Length < 1e-3)
            || !(((turn.Transposed * turn.Y) - new Vector3d(0, 1, 0)).Length < 1e-3)
            || !(Math.Abs(Vector3d.Dot(Vector3d.Cross(turn.X, turn.Y), turn.Z) - 1) < 1e-3)
        )
        {
            throw new InvalidInputException(file, place + ".rotation", $"camera '{name}': the nine numbers are not a rotation");
        }

        var t = Numbers(c, "translation", 3, place, file)
            ?? throw new InvalidInputException(file, place, $"camera '{name}' has a rotation but no translation");
        return nominal with { Rotation = turn, Translation = new Vector3d(t[0], t[1], t[2]) };
    }

    private static double[]? Numbers(JsonElement e, string key, int count, string place, string file)
    {
        if (!e.TryGetProperty(key, out var list) || list.ValueKind == JsonValueKind.Null)
        {
            return null;
        }

        if (
            list.ValueKind != JsonValueKind.Array
            || list.GetArrayLength() != count
            || list.EnumerateArray().Any(v => v.ValueKind != JsonValueKind.Number || !double.IsFinite(v.GetDouble()))
        )
        {
            throw new InvalidInputException(file, $"{place}.{key}", $"{count} numbers are expected");
        }

        return [.. list.EnumerateArray().Select(v => v.GetDouble())];
    }
}
