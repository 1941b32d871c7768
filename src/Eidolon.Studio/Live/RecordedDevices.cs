using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Eidolon.Core;
using Eidolon.Core.Faces;
using Eidolon.Core.Formats;
using Eidolon.Core.Inertial;
using Eidolon.Core.Operations;
using Eidolon.Core.Video;
using Eidolon.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>
/// What suit, witness cameras and face sent during a recording, as samples of whoever is first on the slate: they wore it, it was of them. From then on
/// the take can be solved from any of them. The packets themselves stay as they came.
/// </summary>
public sealed class RecordedDevices(IDbContextFactory<EidolonDb> factory, TimeProvider time)
{
    /// <summary>Less of it is no recording, seconds.</summary>
    private const double Shortest = 1;

    /// <summary>Bytes before the payload of a recorded packet: time on the take's clock (double), source (byte), length (ushort).</summary>
    private const int Head = sizeof(double) + sizeof(byte) + sizeof(ushort);

    /// <summary>Adds the samples of every device that sent something, and ends the job that does it, all or none.</summary>
    /// <exception cref="RefusedException">There is no room for them; the packets are kept as they came.</exception>
    public async Task Unpack(int take, int job, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        try
        {
            await using var transaction = await db.Database.BeginTransactionAsync(cancel);
            await Unpack(db, take, cancel);
            if (db.End(job, "The samples are there", time.GetUtcNow().UtcDateTime))
            {
                db.Changed(LedgerOwner.Take(take));
                await transaction.CommitAsync(cancel);
            }
        }
        catch (Exception e) when (NoRoom.Is(e))
        {
            throw new RefusedException(
                "There is no room for the samples of suit and films: their packets are kept. Make room; the next start makes the samples",
                e
            );
        }
    }

    /// <summary>Queues what is missing, after a start.</summary>
    public async Task Recover(JobQueue jobs, CancellationToken cancel)
    {
        await using var db = await factory.CreateDbContextAsync(cancel);
        foreach (var take in await Missing(db))
        {
            await jobs.Unpack(take, await db.Takes.Where(t => t.Id == take).Select(t => t.Name).FirstAsync(cancel), cancel);
        }
    }

    /// <summary>Takes whose devices have sent something that is not made into samples yet.</summary>
    public static Task<List<int>> Missing(EidolonDb db) =>
        db
            .Takes.Where(t =>
                t.State == TakeState.Kept
                && t.Streams.Any(s => s.Kind == StreamKind.Packets)
                && !t.Streams.Any(s => s.Kind == StreamKind.Suit || s.Kind == StreamKind.Film || s.Kind == StreamKind.Face)
            )
            .Select(t => t.Id)
            .ToListAsync();

    /// <summary>Adds the samples of every device that sent something; the caller's transaction keeps them.</summary>
    public static async Task Unpack(EidolonDb db, int take, CancellationToken cancel = default)
    {
        var performer = await db
            .Parts.Where(p => p.TakeId == take && p.Subject!.Kind == SubjectKind.Performer)
            .OrderBy(p => p.Position)
            .Select(p => (int?)p.SubjectId)
            .FirstOrDefaultAsync(cancel);
        var clock = await db.Takes.Where(t => t.Id == take).Select(t => new { t.FrameCount, t.FrameRate }).FirstOrDefaultAsync(cancel);
        if (performer is not { } who || clock is null)
        {
            return;
        }

        var seconds = clock.FrameCount / clock.FrameRate;
        var store = new SampleStore(db);
        FilmValue? films = null;
        var pictures = new List<float[]>();
        foreach (
            var stream in await db
                .Streams.AsNoTracking()
                .Where(s => s.TakeId == take && s.Kind == StreamKind.Packets)
                .OrderBy(s => s.Name)
                .ToListAsync(cancel)
        )
        {
            float[]? Rows(double rate, int values) => RowsOf(db, stream.Id, rate, values, seconds);
            if (stream.Name == "suit" && Rows(SuitSensors.Rate, SuitTake.Stride) is { } suit)
            {
                await store.WriteSuit(take, who, new SuitTake(SuitSensors.Rate, suit), cancel);
            }
            else if (stream.Name == "face" && Rows(FaceWeights.Rate, FaceWeights.Names.Count) is { } face)
            {
                await store.WriteFace(take, who, new FaceTake(FaceWeights.Rate, FaceWeights.Names, Sure(face)), cancel);
            }
            else if (
                stream.Name.StartsWith("witness-", StringComparison.Ordinal) && Rows(WitnessPoints.Rate, WitnessPoints.Values) is { } seen
            )
            {
                var points = Columns(seen, 0, WitnessPoints.Count * 3);
                films = ImportedFilms.Join(films, new FilmTake(WitnessPoints.Rate, WitnessPoints.Names, points), stream.Name);
                pictures.Add(Columns(seen, WitnessPoints.Count * 3, WitnessPoints.Strokes * WitnessPoints.StrokeValues));
            }
        }

        if (films is not null)
        {
            await store.WriteFilms(take, who, films, pictures, cancel);
        }
    }

    /// <summary>
    /// A row for every moment of the take's clock, NaN where nothing came; null where it is too little. What says it is of another time is left out.
    /// </summary>
    private static float[]? RowsOf(EidolonDb db, int stream, double rate, int values, double takeSeconds)
    {
        var rows = new List<(int Index, float[] Row)>();
        foreach (var chunk in db.Chunks.AsNoTracking().Where(c => c.StreamId == stream).OrderBy(c => c.FirstFrame).Select(c => c.Data))
        {
            for (var at = 0; at + Head <= chunk.Length; )
            {
                var seconds = BinaryPrimitives.ReadDoubleLittleEndian(chunk.AsSpan(at));
                var length = BinaryPrimitives.ReadUInt16LittleEndian(chunk.AsSpan(at + Head - sizeof(ushort)));
                at += Head;
                var index = seconds > -1 && seconds <= takeSeconds ? (int)Math.Round(seconds * rate) : -1;
                if (index >= 0 && length == values * sizeof(float) && at + length <= chunk.Length)
                {
                    rows.Add((index, MemoryMarshal.Cast<byte, float>(chunk.AsSpan(at, length)).ToArray()));
                }

                at += length;
            }
        }

        if (rows.Count < Shortest * rate)
        {
            return null;
        }

        var frames = rows.Max(r => r.Index) + 1;
        var result = new float[frames * values];
        Array.Fill(result, float.NaN);
        foreach (var (index, row) in rows)
        {
            row.CopyTo(result, index * values);
        }

        return result;
    }

    /// <summary>The live tracker says nothing of how sure it is: it is, wherever it sent something.</summary>
    private static float[] Sure(float[] weights)
    {
        var n = FaceWeights.Names.Count;
        var result = new float[weights.Length / n * (n + 1)];
        for (var f = 0; f < weights.Length / n; f++)
        {
            weights.AsSpan(f * n, n).CopyTo(result.AsSpan(f * (n + 1)));
            result[(f * (n + 1)) + n] = float.IsNaN(weights[f * n]) ? float.NaN : 1;
        }

        return result;
    }

    private static float[] Columns(float[] rows, int from, int count)
    {
        var frames = rows.Length / WitnessPoints.Values;
        var result = new float[frames * count];
        for (var f = 0; f < frames; f++)
        {
            rows.AsSpan((f * WitnessPoints.Values) + from, count).CopyTo(result.AsSpan(f * count));
        }

        return result;
    }
}
