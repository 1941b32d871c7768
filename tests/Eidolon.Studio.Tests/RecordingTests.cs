using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Recording, and what is left of it when the studio is killed in the middle.</summary>
public sealed class RecordingTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    [Fact]
    public async Task A_recording_cut_off_keeps_all_but_the_last_half_second()
    {
        studio.Services.GetRequiredService<RingService>().Perform("gangplank-hop", "Tobi", 1);
        var recorder = studio.Services.GetRequiredService<Recorder>();
        await recorder.Start(new RecordRequest(2, "HL_090_cut", 1, "Tobi", "gangplank-hop", string.Empty));
        await Until(() => recorder.Status() is { State: "Recording", Frames: > 200 });
        var written = recorder.Status().Frames;
        // No stop: the data are copied away as a crash would leave them, and a second studio opens the copy.
        var copy = Directory.CreateTempSubdirectory("eidolon-crash").FullName;
        foreach (var file in Directory.GetFiles(studio.Folder, "studio.db*"))
        {
            File.Copy(file, Path.Combine(copy, Path.GetFileName(file)));
        }

        await using (var db = new EidolonDb(new DbContextOptionsBuilder<EidolonDb>().UseSqlite($"Data Source={Path.Combine(copy, "studio.db")}").Options))
        {
            await RecordingRecovery.Run(db);
            var take = await db.Takes.SingleAsync(t => t.Name == "HL_090_cut_01");
            Assert.Equal(TakeState.Kept, take.State);
            Assert.InRange(take.FrameCount, written - 125, written + 125);
            Assert.True(take.FrameCount >= written - 65 && take.Shortened.Length > 0, $"{take.FrameCount} of {written}");
            var markers = await new SampleStore(db).ReadMarkers(take);
            Assert.True(markers.At(60).ToArray().Count(p => !float.IsNaN(p.X)) > 30);
        }

        var id = await recorder.Stop();
        await using var own = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var kept = await own.Takes.SingleAsync(t => t.Id == id);
        Assert.True(kept.FrameCount >= written && kept.State == TakeState.Kept && kept.Shortened.Length == 0);
        Assert.Equal(kept.FrameCount, (await new SampleStore(own).ReadMarkers(kept)).FrameCount);
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(copy, recursive: true);
    }

    [Theory]
    [InlineData("HL 021", "cannot be")]
    [InlineData("HL_030_gangplank-hop", "exists already")]
    public async Task A_bad_slate_is_refused_with_what_to_type(string setUp, string expected)
    {
        var recorder = studio.Services.GetRequiredService<Recorder>();
        var e = await Assert.ThrowsAsync<ArgumentException>(() => recorder.Start(new RecordRequest(2, setUp, 1, "Tobi", "gangplank-hop", string.Empty)));
        Assert.Contains(expected, e.Message, StringComparison.Ordinal);
    }

    private static async Task Until(Func<bool> condition)
    {
        for (var end = DateTime.UtcNow.AddSeconds(40); DateTime.UtcNow < end;)
        {
            if (condition())
            {
                return;
            }

            await Task.Delay(50);
        }

        Assert.Fail("the condition was not met");
    }
}
