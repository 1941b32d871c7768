using System.Net;
using System.Net.Http.Headers;
using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
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
    public void The_read_back_measures()
    {
        using var scope = studio.Services.CreateScope();
        using var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var scenes = scope.ServiceProvider.GetRequiredService<SceneService>();
        var motion = MotionEdits.Range(scenes.Open(db.Scenes.Single(s => s.Name == "Quay scene A").Id).Moving.First().Motion!, 0, 20);
        Assert.Equal(0, ReadBack.Worst(motion, motion));
        var moved = motion.Translations.ToArray();
        moved[7 * motion.Skeleton.Count] += new Vector3(0, 0.012f, 0);
        // The root of one frame is 12 mm off: that is the worst.
        var other = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, moved);
        Assert.Equal(12, ReadBack.Worst(motion, other), 2);
        Assert.Equal(double.PositiveInfinity, ReadBack.Worst(motion, MotionEdits.Range(motion, 0, 19)));
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
