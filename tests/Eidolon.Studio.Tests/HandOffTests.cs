using System.Net;
using System.Net.Http.Headers;
using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>What is exported is what was asked for, and what the receipt says is what is in the file.</summary>
public sealed class HandOffTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private static async Task<int> Scene(EidolonDb db) => (await db.Scenes.SingleAsync(s => s.Name == "Quay scene A")).Id;

    [Theory]
    [InlineData("bvh", 100, 219, 120, 120)]
    [InlineData("glb", 100, 219, 30, 30)]
    [InlineData("glb", 0, int.MaxValue, 60, null)]
    public async Task The_range_and_the_rate_that_were_asked_for_are_in_the_file(
        string format,
        int start,
        int end,
        double rate,
        int? frames
    )
    {
        using var scope = studio.Services.CreateScope();
        var (db, scenes) = (
            scope.ServiceProvider.GetRequiredService<EidolonDb>(),
            scope.ServiceProvider.GetRequiredService<SceneService>()
        );
        var id = await Scene(db);
        var track = scenes.Open(id).Moving.First();
        var settings = new HandOffSettings
        {
            Format = format,
            Start = start,
            End = end,
            Rate = rate,
            Track = track.Node.Id,
        };
        var slip = Assert.Single(await scope.ServiceProvider.GetRequiredService<HandOffService>().Write(id, settings));
        var file = MotionFiles.ReadMotion(studio.Services.GetRequiredService<BlobStore>().Read(db, slip.BlobId), slip.FileName);
        Assert.Equal(frames ?? Math.Floor((track.Motion!.FrameCount - 1) * rate / track.Motion.FrameRate) + 1, file.FrameCount, 1.0);
        Assert.Equal(rate, file.FrameRate, 3);
        // The first frame of the file is the first of the range, joint by joint.
        var meant = ForwardKinematics.WorldPositions(MotionEdits.Range(track.Motion!, start, start + 1));
        var got = ForwardKinematics.WorldPositions(MotionEdits.Range(file, 0, 1));
        var hips = Distance(meant[0], got[file.Skeleton.IndexOf(track.Motion!.Skeleton.Joints[0].Name)], format == "bvh" ? 0.01f : 1);
        Assert.True(hips < 0.002, $"{hips} m from where the range begins");
        Assert.InRange(slip.ReadBackMillimetres, 0, 0.01);
    }

    [Fact]
    public void The_read_back_measures_every_channel()
    {
        using var scope = studio.Services.CreateScope();
        using var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var scenes = scope.ServiceProvider.GetRequiredService<SceneService>();
        var plain = MotionEdits.Range(scenes.Open(db.Scenes.Single(s => s.Name == "Quay scene A").Id).Moving.First().Motion!, 0, 20);
        float[] smile = [.. Enumerable.Range(0, 20).Select(f => f / 40f)];
        var motion = plain.With([KeyValuePair.Create("AU12", smile)]);
        Assert.Equal((0.0, 0.0, 0.0, 0), Said(ReadBack.Of(motion, motion)));
        // The root of one frame is 12 mm off: that is the worst.
        var moved = motion.Translations.ToArray();
        moved[7 * motion.Skeleton.Count] += new Vector3(0, 0.012f, 0);
        Assert.Equal(12, ReadBack.Of(motion, Other(motion.Rotations, moved, smile)).Millimetres, 2);
        // A hand that turns where it is moves no joint; a twist of a leaf is seen all the same.
        var turned = motion.Rotations.ToArray();
        var leaf = (9 * motion.Skeleton.Count) + motion.Skeleton.Count - 1;
        turned[leaf] = Quaternion.Normalize(turned[leaf] * Quaternion.CreateFromAxisAngle(Vector3.UnitX, 0.1f));
        var twisted = ReadBack.Of(motion, Other(turned, motion.Translations, smile));
        Assert.Equal(0, twisted.Millimetres, 3);
        Assert.Equal(0.1 * 180 / Math.PI, twisted.Degrees, 2);
        // A face that is another, or gone.
        var flat = ReadBack.Of(motion, Other(motion.Rotations, motion.Translations, new float[20]));
        Assert.Equal(19 / 40.0, flat.Weight, 3);
        Assert.Equal(["face weight AU12"], ReadBack.Of(motion, plain).Missing);
        Assert.Equal(["1 frames"], ReadBack.Of(motion, MotionEdits.Range(motion, 0, 19)).Missing);

        Motion Other(Quaternion[] turns, Vector3[] places, float[] face) =>
            new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount, turns, places).With([KeyValuePair.Create("AU12", face)]);
        static (double, double, double, int) Said(ReadBack r) =>
            (Math.Round(r.Millimetres, 4), Math.Round(r.Degrees, 2), r.Weight, r.Missing.Count);
    }

    [Fact]
    public async Task What_is_out_of_date_is_not_exported_and_the_receipt_names_what_was()
    {
        using var scope = studio.Services.CreateScope();
        var (db, scenes, book, exports) = (
            scope.ServiceProvider.GetRequiredService<EidolonDb>(),
            scope.ServiceProvider.GetRequiredService<SceneService>(),
            studio.Services.GetRequiredService<LedgerBook>(),
            scope.ServiceProvider.GetRequiredService<HandOffService>()
        );
        var take = await db.Takes.SingleAsync(t => t.Name == "HL_030_gangplank-hop_02");
        var scene = await scenes.OfTake(take.Id, default);
        book.BringUp(LedgerOwner.Scene(scene.Id));
        var track = scenes.Open(scene.Id).Moving.First(t => t.Subject.Kind == SubjectKind.Character);
        var settings = new HandOffSettings { Track = track.Node.Id };
        var before = (await exports.Write(scene.Id, settings))[0];
        var receipt = HandOffReceipt.Of(before.Receipt)!;
        Assert.Equal(ContentHash.Text(track.Shown), receipt.Content);
        Assert.Single(receipt.Inputs);
        Assert.Equal(await db.Subjects.Where(s => s.Id == track.Subject.Id).Select(s => s.Version).SingleAsync(), receipt.SubjectVersion);
        Assert.InRange(receipt.ReadBack.Degrees, 0, 0.05);
        Assert.Empty(receipt.ReadBack.Missing);

        // Her hands are held otherwise now: what is shown is the motion of before.
        var cast = book.Look(LedgerOwner.Take(take.Id)).Of(NodeKind.Cast).First();
        book.Keep(LedgerOwner.Take(take.Id), new AddEntries("retarget", new JsonObject { ["travel"] = "footprints" }, cast.Id));
        Assert.NotNull(scenes.Open(scene.Id).Moving.First().Motion);
        var refused = await Assert.ThrowsAsync<RefusedException>(() => exports.Write(scene.Id, settings));
        Assert.Contains("out of date", refused.Message, StringComparison.Ordinal);
        Assert.Equal(1, await db.HandOffs.CountAsync(h => h.SceneId == scene.Id));
        // A bake brings it up first: the clip is the motion of now.
        var shelf = scope.ServiceProvider.GetRequiredService<ClipShelf>();
        await shelf.Bake(scene.Id, new BakeRequest(track.Node.Id, 0, null, "Hop of now", null));
        var clip = await db.Clips.SingleAsync(c => c.Name == "Hop of now");
        Assert.NotEqual(receipt.Content, clip.Content);
        book.BringUp(LedgerOwner.Scene(scene.Id));
        var now = scenes.Open(scene.Id).Moving.First(t => t.Node.Id == track.Node.Id).Motion!;
        Assert.Equal(
            clip.Content,
            ContentHash.Text(
                ContentHash.Of(
                    new MotionValue(now.From(0)) { Contacts = scenes.Open(scene.Id).Moving.First(t => t.Node.Id == track.Node.Id).Contacts }
                )
            )
        );
    }

    [Fact]
    public async Task A_face_and_a_prop_in_the_hand_are_in_the_files()
    {
        using var scope = studio.Services.CreateScope();
        var (db, scenes, book, exports) = (
            scope.ServiceProvider.GetRequiredService<EidolonDb>(),
            scope.ServiceProvider.GetRequiredService<SceneService>(),
            studio.Services.GetRequiredService<LedgerBook>(),
            scope.ServiceProvider.GetRequiredService<HandOffService>()
        );
        var blobs = studio.Services.GetRequiredService<BlobStore>();
        // The demo's lamp walk: the pole goes with the Lamplighter's hand, in the scene and in the file.
        var walk = await db.Takes.SingleAsync(t => t.Name == "HL_009_lamp-walk_01");
        var scene = await scenes.OfTake(walk.Id, default);
        book.BringUp(LedgerOwner.Scene(scene.Id));
        var files = await exports.Write(scene.Id, new HandOffSettings { Rate = 120 });
        var pole = files.Single(f => db.Subjects.Single(s => s.Id == f.SubjectId).Kind == SubjectKind.Prop);
        var who = files.Single(f => f != pole);
        var (carried, walks) = (
            MotionFiles.ReadMotion(blobs.Read(db, pole.BlobId), pole.FileName),
            MotionFiles.ReadMotion(blobs.Read(db, who.BlobId), who.FileName)
        );
        Assert.Equal((1, walks.FrameCount), (carried.Skeleton.Count, carried.FrameCount));
        var hand = scenes.Open(scene.Id).Moving.First().Motion!.Skeleton.IndexOf(BodyRole.HandR);
        var places = ForwardKinematics.WorldPositions(walks);
        double[] far =
        [
            .. Enumerable
                .Range(300, 200)
                .Select(f => (double)(places[(f * walks.Skeleton.Count) + hand] - carried.Translations[f]).Length()),
        ];
        Assert.True(far.Max() - far.Min() < 0.01, $"the pole is {far.Min():0.000} to {far.Max():0.000} m from the hand");

        // Layers over a face leave the face; a file that cannot hold it says so.
        var signal = await db.Takes.SingleAsync(t => t.Name == "HL_033_signal-wave_01");
        var waves = await scenes.OfTake(signal.Id, default);
        book.BringUp(LedgerOwner.Scene(waves.Id));
        var track = scenes.Open(waves.Id).Moving.First();
        Assert.NotEmpty(track.Motion!.Morphs);
        var bvh = (await exports.Write(waves.Id, new HandOffSettings { Format = "bvh", Track = track.Node.Id }))[0];
        Assert.Contains("face weight AU12L", HandOffReceipt.Of(bvh.Receipt)!.CannotHold);
    }

    [Theory]
    [InlineData(50_000_000, 60_000_000, "glb", 30)]
    [InlineData(90, 80, "glb", 30)]
    [InlineData(0, 100, "docx", 30)]
    [InlineData(0, 100, "bvh", 0)]
    public async Task What_cannot_be_written_is_refused_and_leaves_no_receipt(int start, int end, string format, double rate)
    {
        using var scope = studio.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var before = await db.HandOffs.CountAsync();
        var settings = new HandOffSettings
        {
            Format = format,
            Start = start,
            End = end,
            Rate = rate,
        };
        var id = await Scene(db);
        await Assert.ThrowsAsync<RefusedException>(() => scope.ServiceProvider.GetRequiredService<HandOffService>().Write(id, settings));
        Assert.Equal(before, await db.HandOffs.CountAsync());
    }

    [Fact]
    public async Task A_range_of_a_file_is_answered_with_that_range()
    {
        using var scope = studio.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var slip = (await scope.ServiceProvider.GetRequiredService<HandOffService>().Write(await Scene(db), new HandOffSettings()))[0];
        var whole = studio.Services.GetRequiredService<BlobStore>().Read(db, slip.BlobId);
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var request = new HttpRequestMessage(HttpMethod.Get, $"/files/handoffs/{slip.Id}");
        request.Headers.Range = new RangeHeaderValue(1000, 1999);
        var answer = await http.SendAsync(request);
        Assert.Equal(HttpStatusCode.PartialContent, answer.StatusCode);
        Assert.Equal(whole[1000..2000], await answer.Content.ReadAsByteArrayAsync());
    }

    private static float Distance(Vector3 a, Vector3 b, float scale) => Math.Min((a - b).Length(), (a - (b * scale)).Length());
}
