using System.Numerics;
using System.Runtime.InteropServices;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Studio.Lanes;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>What the Stage and the Lanes draw: a description as JSON, samples as typed arrays.</summary>
public static class StageApi
{
    public static void Map(WebApplication app)
    {
        var api = app.MapGroup("/api/takes/{id:int}");
        api.MapGet("/scene", Scene);
        SampleApi.Map(api);
        api.MapGet("/suggestions", Suggestions);
        api.MapGet("/motion/{who}", async (int id, string who, TakeService takes, CancellationToken cancel) =>
        {
            var open = await takes.Open(id, cancel);
            var motion = who == "character" ? open.Data.Character : open.Data.Performer;
            return motion is null ? Results.NotFound() : Binary(MotionBytes(motion));
        });
        api.MapGet("/proposals", Proposals);
        api.MapGet("/handoffs/{file:int}", async (int id, int file, EidolonDb db, CancellationToken cancel) =>
        {
            var h = await db.HandOffs.AsNoTracking().FirstOrDefaultAsync(x => x.Id == file && x.TakeId == id, cancel);
            return h is null
                ? Results.NotFound()
                : Results.File(
                    h.Data,
                    h.FileName.EndsWith(".glb", StringComparison.Ordinal) ? "model/gltf-binary" : "text/plain",
                    h.FileName
                );
        });
        app.MapGet("/figures/performer/{name}.glb", async (string name, EidolonDb db, CancellationToken cancel) =>
            await db.Performers.AsNoTracking().Where(p => p.Name == name).Select(p => p.Figure).FirstOrDefaultAsync(cancel)
                is { Length: > 0 } glb
                ? Results.File(glb, "model/gltf-binary")
                : Results.NotFound()
        );
        app.MapGet("/figures/take/{id:int}.glb", async (int id, TakeService takes, CancellationToken cancel) =>
            (await takes.Open(id, cancel)).Data.Performer is { } motion
                ? Results.File(TakeImport.Figure(motion, "figure"), "model/gltf-binary")
                : Results.NotFound()
        );
        app.MapGet("/figures/character/{name}.glb", async (string name, EidolonDb db, CancellationToken cancel) =>
            await db.Characters.AsNoTracking().Where(p => p.Name == name).Select(p => p.Glb).FirstOrDefaultAsync(cancel) is { } glb
                ? Results.File(glb, "model/gltf-binary")
                : Results.NotFound()
        );
    }

    private static IResult Binary(byte[] bytes) => Results.Bytes(bytes, "application/octet-stream");

    /// <summary>Per frame: the pelvis' place (3 floats) and every joint's local turn (4 floats).</summary>
    internal static byte[] MotionBytes(Motion motion)
    {
        var n = motion.Skeleton.Count;
        var pelvis = Math.Max(0, motion.Skeleton.IndexOf(BodyRole.Pelvis));
        var floats = new float[motion.FrameCount * (3 + (4 * n))];
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var at = f * (3 + (4 * n));
            var p = motion.TranslationsAt(f)[pelvis];
            (floats[at], floats[at + 1], floats[at + 2]) = (p.X, p.Y, p.Z);
            MemoryMarshal.Cast<Quaternion, float>(motion.RotationsAt(f)).CopyTo(floats.AsSpan(at + 3));
        }

        return MemoryMarshal.AsBytes<float>(floats).ToArray();
    }

    private static async Task<IResult> Scene(int id, string? step, TakeService takes, StateNotes notes, CancellationToken cancel)
    {
        var open = await takes.Open(id, cancel);
        var markers = open.Data.Markers!;
        var set = open.Resources.MarkerSet();
        var json = new JsonObject
        {
            ["id"] = id,
            ["name"] = open.Take.Name,
            ["step"] = step,
            ["state"] = open.State,
            ["frameRate"] = open.Take.FrameRate,
            ["frameCount"] = (step is "assemble" or "polish" or "export" ? open.Data.Final?.FrameCount : null) ?? markers.FrameCount,
            ["markers"] = new JsonArray([
                .. markers.Names.Select(n =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = n,
                            ["side"] = SideOf(set, n),
                            ["named"] = !MarkerNames.IsUnnamed(n),
                        }
                ),
            ]),
            ["links"] = Links(set, markers),
            ["figures"] = Figures(open, step),
            ["figureState"] = string.Join(
                ',',
                open.Take.Ledger.Where(l => l.On && l.Operation is "solve" or "retarget" or "assemble" or "layer" or "trim")
                    .Select(l => l.Id)
            ),
            ["markerFrames"] = markers.FrameCount,
            ["contacts"] = step is "clean" or "solve" ? Contacts(open) : new JsonArray(),
            ["lanes"] = LaneBuilder.Build(open, notes.Gaps(open.Hash, open.Data), step ?? "clean"),
            ["pinned"] = new JsonArray([
                .. open
                    .Take.Ledger.Where(l => l.On && l.Operation == "set-label")
                    .Select(l => JsonNode.Parse(l.Parameters)!["name"]?.DeepClone()),
            ]),
        };
        return Results.Json(json);
    }

    /// <summary>What is planted when, for the Stage: figure, joint, first and last frame, side.</summary>
    private static JsonArray Contacts(OpenTake open)
    {
        if (open.Data.Performer is not { } motion)
        {
            return [];
        }

        return new JsonArray([
            .. ContactEdits
                .Apply(PointContacts.Find(motion), open.Data.Contacts)
                .Select(c => (Contact: c, Joint: motion.Skeleton.IndexOf(PointContacts.RoleOf(c))))
                .Where(x => x.Joint >= 0)
                .Select(x => (JsonNode)new JsonArray(0, x.Joint, x.Contact.Start, x.Contact.End, x.Contact.Side.ToString())),
        ]);
    }

    internal static string SideOf(MarkerSet set, string name) =>
        set.Find(MarkerNames.Split(name).Marker) is { } m
            ? BodyRoles.Side(m.Segment) is 'C' && name[^1] is 'L' or 'R'
                ? name[^1].ToString()
                : BodyRoles.Side(m.Segment).ToString()
            : "N";

    /// <summary>Both columns of each link and its usual length, metres.</summary>
    private static JsonArray Links(MarkerSet set, MarkerTake take) =>
        new([
            .. TakeLinks
                .Of(take, set)
                .Select(l =>
                    (JsonNode)
                        new JsonArray(
                            l.A,
                            l.B,
                            Math.Round(TakeLinks.Lengths(take, l.A, l.B, 60) is { Count: > 0 } lengths ? lengths[lengths.Count / 2] : 0, 4)
                        )
                ),
        ]);

    private static JsonArray Figures(OpenTake open, string? step)
    {
        var figures = new JsonArray();
        var late = step is "assemble" or "polish" or "export";
        if (open.Data.Performer is { } p && !(late && open.Data.Character is not null))
        {
            figures.Add(
                (JsonNode)Figure(
                    "performer",
                    open.FirstPerformer,
                    open.Data.Markers!.MarkerCount == 0
                        ? $"/figures/take/{open.Take.Id}.glb"
                        : $"/figures/performer/{open.FirstPerformer}.glb",
                    p
                )
            );
        }

        if (open.Data.Character is { } c && step is "retarget" or "assemble" or "polish" or "export" && open.Data.Character is { } motion)
        {
            figures.Add(
                (JsonNode)Figure("character", open.Data.CharacterName!, $"/figures/character/{open.Data.CharacterName}.glb", motion)
            );
        }

        return figures;
    }

    internal static JsonObject Figure(string kind, string name, string mesh, Motion motion)
    {
        var s = motion.Skeleton;
        return new JsonObject
        {
            ["kind"] = kind,
            ["name"] = name,
            ["mesh"] = mesh,
            ["frames"] = motion.FrameCount,
            ["pelvis"] = Math.Max(0, s.IndexOf(BodyRole.Pelvis)),
            ["joints"] = new JsonArray([
                .. s.Joints.Select(j =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = j.Name,
                            ["parent"] = j.Parent,
                            ["role"] = j.Role?.ToString(),
                            ["side"] = j.Role is { } r ? BodyRoles.Side(r).ToString() : "C",
                            ["offset"] = new JsonArray(j.Offset.X, j.Offset.Y, j.Offset.Z),
                        }
                ),
            ]),
        };
    }

    /// <summary>The likeliest names of a dot at a frame.</summary>
    private static async Task<IResult> Suggestions(int id, string dot, int frame, TakeService takes, CancellationToken cancel)
    {
        var open = await takes.Open(id, cancel);
        return Results.Json(
            NameSuggestions
                .For(open.Data.Markers!, open.Resources.MarkerSet(), open.Resources.KnownPerformers(), dot, frame)
                .Select(s => new { name = s.Name, share = Math.Round(s.Share, 3) })
        );
    }

    /// <summary>What each method would put into one gap, nearest first, and how far off it is expected to be.</summary>
    private static async Task<IResult> Proposals(int id, string marker, int frame, TakeService takes, CancellationToken cancel)
    {
        var open = await takes.Open(id, cancel);
        var take = open.Data.Markers!;
        var m = take.IndexOf(marker);
        var gap = m < 0 ? null : take.Gaps(m).Where(g => g.Start <= frame && frame <= g.End).Select(g => (Gap?)g).FirstOrDefault();
        if (gap is not { } g)
        {
            return Results.Json(new { error = $"There is no gap of {marker} at frame {frame}." });
        }

        if (g.Start == 0 || g.End == take.FrameCount - 1)
        {
            return Results.Json(new { error = "The gap is at an end of the take: there is nothing on its other side to go to." });
        }

        var model = open.Data.Performer is null ? null : CarriedMarkers.Of(open.Resources.Performer(), take, cancel);
        var proposals = GapFiller.Proposals(take, open.Resources.MarkerSet(), m, g, model);
        return Results.Json(
            new JsonObject
            {
                ["marker"] = m,
                ["start"] = g.Start,
                ["end"] = g.End,
                ["proposals"] = new JsonArray([
                    .. proposals.Select(p =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["method"] = p.Method.ToString().ToLowerInvariant(),
                                ["expected"] = double.IsNaN(p.Expected) ? null : Math.Round(p.Expected * 1000, 2),
                                ["points"] = new JsonArray([
                                    .. p.Values.SelectMany(v => new[] { v.X, v.Y, v.Z }).Select(v => (JsonNode)Math.Round(v, 5)),
                                ]),
                            }
                    ),
                ]),
            }
        );
    }
}
