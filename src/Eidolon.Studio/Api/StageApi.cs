using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Hands;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Lanes;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Api;

/// <summary>What the Stage and the Lanes of a take draw: a description as JSON, samples as typed arrays.</summary>
public static class StageApi
{
    public static void Map(WebApplication app)
    {
        var api = app.MapGroup("/api/takes/{id:int}").AddEndpointFilter<RefusalFilter>();
        api.MapGet("/scene", Scene);
        SampleApi.Map(api);
        FilmApi.Map(api);
        CompareApi.Map(api);
        api.MapGet("/suggestions", Suggestions);
        api.MapGet("/proposals", Proposals);
        api.MapGet("/motion/{node:int}", (int id, int node, int? from, int? to, TakeService takes) =>
            takes.Open(id) is var open && open.Performers.Concat(open.Casts).FirstOrDefault(r => r.Node.Id == node)?.Motion is { } motion
                ? Binary(FigureJson.MotionBytes(motion, from, to))
                : Results.NotFound()
        );
        api.MapGet("/face/{node:int}", (int id, int node, TakeService takes) =>
            takes.Open(id) is var open
            && open.Performers.Concat(open.Casts).FirstOrDefault(r => r.Node.Id == node)?.Motion is { Morphs.Count: > 0 } motion
                ? Binary(FigureJson.MorphBytes(motion))
                : Results.NotFound()
        );
        api.MapGet("/places/{node:int}", (int id, int node, TakeService takes) =>
            takes.Open(id) is var open && open.Props.Concat(open.Attached).FirstOrDefault(r => r.Node.Id == node)?.Places is { } places
                ? Binary(FigureJson.PlaceBytes(places))
                : Results.NotFound()
        );
        api.MapGet("/figure/{node:int}.glb", (int id, int node, TakeService takes) =>
            takes.Open(id).Performers.FirstOrDefault(r => r.Node.Id == node)?.Motion is { } motion
                ? Results.File(TakeImport.Figure(motion, "figure"), "model/gltf-binary")
                : Results.NotFound()
        );
    }

    internal static IResult Binary(byte[] bytes) => Results.Bytes(bytes, "application/octet-stream");

    private static IResult Scene(int id, string? step, TakeService takes, StateNotes notes, EidolonDb db)
    {
        var job = OpenJobs.Of(db.Jobs, LedgerOwner.Take(id)).Select(j => j.Id).FirstOrDefault();
        var open = takes.Open(id);
        var markers = open.Marked;
        var set = StateNotes.SetOf(open);
        var json = new JsonObject
        {
            ["id"] = id,
            ["name"] = open.Take.Name,
            ["step"] = step,
            ["revision"] = open.Take.Revision,
            ["state"] = open.MarkerState,
            ["page"] = open.State,
            ["job"] = job,
            ["frameRate"] = open.Take.FrameRate,
            ["frameCount"] = open.FrameCount,
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
            ["figures"] = Figures(open, step, db),
            ["props"] = Props(open, step, db),
            ["set"] = SetPieces(open.Take),
            ["markerFrames"] = markers.FrameCount,
            ["contacts"] = step is "clean" or "solve" ? Contacts(open) : new JsonArray(),
            ["lanes"] = LaneBuilder.Build(open, notes.Gaps(open), step ?? "clean"),
            ["pinned"] = new JsonArray([.. open.Pinned.Select(p => (JsonNode)p.Name)]),
        };
        json["figureState"] = string.Join(
            ',',
            ((JsonArray)json["figures"]!).Concat((JsonArray)json["props"]!).Select(f => (string)f!["state"]!)
        );
        return Results.Json(json);
    }

    /// <summary>What is planted when, for the Stage: figure, joint, first and last frame, side.</summary>
    private static JsonArray Contacts(OpenTake open)
    {
        var result = new JsonArray();
        foreach (var (role, i) in open.Solved.Select((r, i) => (r, i)))
        {
            foreach (var c in BodyContacts.Find(role.Motion!, role.Contacts).Points)
            {
                if (role.Motion!.Skeleton.IndexOf(BodyContacts.RoleOf(c)) is >= 0 and var joint)
                {
                    result.Add((JsonNode)new JsonArray(i, joint, c.Start, c.End, c.Side.ToString()));
                }
            }
        }

        return result;
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

    private static JsonArray Figures(OpenTake open, string? step, EidolonDb db)
    {
        var figures = new JsonArray();
        foreach (var role in open.Solved)
        {
            figures.Add((JsonNode)Figure(open, role, "performer", Mesh(db, open, role)));
        }

        foreach (var role in step == "retarget" ? open.Played : [])
        {
            var figure = Figure(open, role, "character", SubjectFile(db, role.Character!.Id) ?? string.Empty);
            figure["by"] = role.Subject.Name;
            figures.Add((JsonNode)figure);
        }

        return figures;
    }

    private static JsonObject Figure(OpenTake open, OpenTake.Role role, string kind, string mesh)
    {
        var figure = FigureJson.Figure(
            kind,
            role.Name,
            mesh,
            $"/api/takes/{open.Take.Id}/motion/{role.Node.Id}",
            ContentHash.Text(role.State.Shown ?? 0),
            role.Motion!
        );
        if (role.Motion!.Morphs.Count > 0)
        {
            figure["face"] = FigureJson.Face(role.Motion, $"/api/takes/{open.Take.Id}/face/{role.Node.Id}");
        }

        (figure["node"], figure["performer"], figure["stale"]) = (role.Node.Id, role.Node.SubjectId, !role.State.UpToDate);
        return figure;
    }

    /// <summary>A motion that was brought in, or has fingers or a face, has the body of its own skeleton; another solved one that of the performer.</summary>
    private static string Mesh(EidolonDb db, OpenTake open, OpenTake.Role role) =>
        role.State.Node.Inputs.Count > 0
        && !HandSkeleton.HasFingers(role.Motion!.Skeleton)
        && role.Motion.Morphs.Count == 0
        && SubjectFile(db, role.Subject.Id) is { } file
            ? file
            : $"/api/takes/{open.Take.Id}/figure/{role.Node.Id}.glb";

    /// <summary>Address of a subject's file as it is now; the version is part of it, so that a page never shows an old one.</summary>
    internal static string? SubjectFile(EidolonDb db, int subject) =>
        SubjectLibrary.Current(db, subject) is (_, { BlobId: not null } version) ? $"/files/subjects/{subject}/{version.Number}.glb" : null;

    /// <summary>Props as recorded, and at Retarget also as the characters have them.</summary>
    private static JsonArray Props(OpenTake open, string? step, EidolonDb db)
    {
        var props = new JsonArray();
        foreach (var prop in open.Props.Where(p => p.Places is not null))
        {
            props.Add((JsonNode)Prop(open, prop, "recorded", db));
        }

        foreach (var prop in step == "retarget" ? open.Attached.Where(p => p.State.Node.Entries.Count > 0 && p.Places is not null) : [])
        {
            var attached = Prop(open, prop, "attached", db);
            attached["cast"] = prop.State.Last(AttachOperation.Attach.Name)?.Report["hands"]?[0]?["cast"]?.DeepClone();
            props.Add((JsonNode)attached);
        }

        return props;
    }

    private static JsonObject Prop(OpenTake open, OpenTake.Role prop, string goes, EidolonDb db)
    {
        var json = FigureJson.Prop(
            prop.Name,
            BodyOf(db, prop.Subject.Id),
            SubjectFile(db, prop.Subject.Id),
            $"/api/takes/{open.Take.Id}/places/{prop.Node.Id}",
            ContentHash.Text(prop.State.Shown ?? 0),
            prop.Places!
        );
        json["goes"] = goes;
        return json;
    }

    internal static RigidBody? BodyOf(EidolonDb db, int prop) =>
        SubjectLibrary.Current(db, prop) is ({ } subject, { Body.Length: > 0 } version)
            ? Core.Formats.Json.RigidBodyJson.Read(version.Body, subject.Name)
            : null;

    internal static JsonArray SetPieces(Take take) =>
        new([
            .. take.SetPieces.Select(p =>
                (JsonNode)
                    new JsonObject
                    {
                        ["kind"] = p.Kind,
                        ["x"] = p.X,
                        ["z"] = p.Z,
                        ["heading"] = p.Heading,
                    }
            ),
        ]);

    /// <summary>The likeliest names of a dot at a frame.</summary>
    private static IResult Suggestions(int id, string dot, int frame, TakeService takes)
    {
        var open = takes.Open(id);
        return Results.Json(
            NameSuggestions
                .For(open.Marked, StateNotes.SetOf(open), [.. open.Resources.Performers().Select(p => (p.Prefix, p.Body))], dot, frame)
                .Select(s => new { name = s.Name, share = Math.Round(s.Share, 3) })
        );
    }

    /// <summary>What each method would put into one gap, nearest first, and how far off it is expected to be.</summary>
    private static IResult Proposals(int id, string marker, int frame, TakeService takes, CancellationToken cancel)
    {
        var open = takes.Open(id);
        var take = open.Marked;
        var m = take.IndexOf(marker);
        var gap = m < 0 ? null : take.Gaps(m).Where(g => g.Start <= frame && frame <= g.End).Select(g => (Gap?)g).FirstOrDefault();
        if (gap is not { } g)
        {
            return Results.Json(new { error = $"There is no gap of {marker} at frame {frame}." });
        }

        var measured = open.Resources.Performers();
        if (!g.HasTwoEnds(take.FrameCount) && measured.Count == 0)
        {
            return Results.Json(
                new { error = "There is nothing on its other side to go to; the skeleton of a measured performer could carry it." }
            );
        }

        var skeleton = measured.Count > 0 ? new Lazy<SkeletonCarrier>(() => new SkeletonCarrier(measured, take, cancel)) : null;
        var proposals = GapFiller.Proposals(take, StateNotes.SetOf(open), m, g, skeleton);
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
