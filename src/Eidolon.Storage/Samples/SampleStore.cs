using System.IO.Hashing;
using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core;
using Eidolon.Core.Faces;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Hands;
using Eidolon.Core.Inertial;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Video;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Samples;

/// <summary>Writes streams as chunks and reads them back, every chunk checked.</summary>
public sealed class SampleStore(EidolonDb db)
{
    /// <summary>Frames of a chunk when a whole stream is written: some seconds, well under a megabyte a performer.</summary>
    private const int FramesPerChunk = 1200;

    /// <summary>Floats of a prop's place in one frame: position, then turn.</summary>
    public const int PlaceFloats = 7;

    /// <summary>A chunk that is to be written.</summary>
    public sealed record Part(int StreamId, int First, int Count, byte[] Data);

    /// <summary>Makes an empty stream of a take.</summary>
    public async Task<SampleStream> Add(SampleStream stream, CancellationToken cancel = default)
    {
        db.Streams.Add(stream);
        await db.SaveChangesAsync(cancel);
        return stream;
    }

    /// <summary>Appends several streams' samples in one transaction: after a crash all of them end at the same moment.</summary>
    public async Task Append(IEnumerable<Part> parts, CancellationToken cancel = default)
    {
        foreach (var p in parts)
        {
            db.Chunks.Add(Row(p.StreamId, p.First, p.Count, p.Data));
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>Stores a whole marker take.</summary>
    public async Task WriteMarkers(int takeId, MarkerTake take, CancellationToken cancel = default)
    {
        var stream = await Add(
            new SampleStream
            {
                TakeId = takeId,
                Kind = StreamKind.Markers,
                Name = StreamNames.Markers,
                FrameRate = take.FrameRate,
                FrameCount = take.FrameCount,
                Channels = string.Join('\n', take.Names),
                Content = ContentHash.Text(ContentHash.Of(new MarkerValue(take))),
            },
            cancel
        );
        await InPieces(
            stream,
            take.FrameCount,
            (f, n) => MemoryMarshal.AsBytes(take.Positions.AsSpan(f * take.MarkerCount, n * take.MarkerCount)).ToArray(),
            cancel
        );
    }

    /// <summary>Stores a whole take of 2D centroids.</summary>
    public async Task WriteCentroids(int takeId, CentroidTake take, CancellationToken cancel = default)
    {
        var stream = await Add(
            new SampleStream
            {
                TakeId = takeId,
                Kind = StreamKind.Centroids,
                Name = StreamNames.Ring,
                FrameRate = take.FrameRate,
                FrameCount = take.FrameCount,
            },
            cancel
        );
        await InPieces(
            stream,
            take.FrameCount,
            (from, n) =>
            {
                var bytes = new List<byte>();
                for (var f = from; f < from + n; f++)
                {
                    for (var c = 0; c < take.CameraCount; c++)
                    {
                        CentroidCodec.Write(bytes, take.UAt(f, c), take.VAt(f, c), true);
                    }
                }

                return [.. bytes];
            },
            cancel
        );
    }

    /// <summary>Stores where a prop was.</summary>
    public async Task WritePlaces(int takeId, int subject, PropPlaces places, CancellationToken cancel = default)
    {
        var stream = await Add(
            new SampleStream
            {
                TakeId = takeId,
                SubjectId = subject,
                Kind = StreamKind.Places,
                Name = StreamNames.Places(subject),
                FrameRate = places.FrameRate,
                FrameCount = places.FrameCount,
                Content = ContentHash.Text(ContentHash.Of(new PlacesValue(places))),
            },
            cancel
        );
        await InPieces(stream, places.FrameCount, (f, n) => Bytes(places, f, n), cancel);
    }

    /// <summary>Stores a motion that was brought in: its head, then a chunk a channel (see ValueCodec).</summary>
    public async Task WriteMotion(int takeId, int subject, MotionValue value, CancellationToken cancel = default)
    {
        var stream = await Add(
            new SampleStream
            {
                TakeId = takeId,
                SubjectId = subject,
                Kind = StreamKind.Motion,
                Name = StreamNames.Motion(subject),
                FrameRate = value.Motion.FrameRate,
                FrameCount = value.FrameCount,
                Content = ContentHash.Text(ContentHash.Of(value)),
            },
            cancel
        );
        var place = 1;
        var head = ValueCodec.Write(value, bytes => db.Chunks.Add(Row(stream.Id, place++, 0, bytes.ToArray())));
        db.Chunks.Add(Row(stream.Id, 0, value.FrameCount, head));
        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>Stores what a performer's suit measured.</summary>
    public async Task WriteSuit(int takeId, int subject, SuitTake take, CancellationToken cancel = default)
    {
        var stream = await Add(
            new SampleStream
            {
                TakeId = takeId,
                SubjectId = subject,
                Kind = StreamKind.Suit,
                Name = StreamNames.Suit(subject),
                FrameRate = take.FrameRate,
                FrameCount = take.FrameCount,
                Content = ContentHash.Text(ContentHash.Of(new SuitValue(take))),
            },
            cancel
        );
        await InPieces(stream, take.Samples, take.FrameCount, cancel);
    }

    /// <summary>What a suit measured; frames that are left out are lost samples.</summary>
    /// <exception cref="DamagedDataException">Frames that nobody left out cannot be read; says which.</exception>
    public SuitTake ReadSuit(SampleStream stream, string what) => new(stream.FrameRate, ReadFloats(stream, SuitTake.Stride, what));

    /// <summary>Stores what trackers saw of a performer, a stream a film.</summary>
    /// <param name="pictures">Strokes of each film's picture, [frame × strokes × 5]; empty where there are none.</param>
    public async Task WriteFilms(
        int takeId,
        int subject,
        FilmValue value,
        IReadOnlyList<float[]>? pictures = null,
        CancellationToken cancel = default
    )
    {
        var content = ContentHash.Text(ContentHash.Of(value));
        for (var k = 0; k < value.Films.Count; k++)
        {
            var film = value.Films[k];
            SampleStream Stream(StreamKind kind, string name) =>
                new()
                {
                    TakeId = takeId,
                    SubjectId = subject,
                    Kind = kind,
                    Name = name,
                    FrameRate = film.FrameRate,
                    FrameCount = film.FrameCount,
                };
            var stream = Stream(StreamKind.Film, StreamNames.Film(subject, k + 1));
            (stream.Channels, stream.Content) = (string.Join('\n', film.Names), content);
            stream.Camera = CameraRingJson.Write(value.Cameras[k], placed: value.Cameras[k].IsPlaced).ToJsonString();
            await InPieces(await Add(stream, cancel), film.Values, film.FrameCount, cancel);
            if (pictures is not null && pictures[k].Length > 0)
            {
                var picture = await Add(Stream(StreamKind.FilmPicture, StreamNames.Picture(subject, k + 1)), cancel);
                await InPieces(picture, pictures[k], film.FrameCount, cancel);
            }
        }
    }

    /// <summary>What trackers saw; frames that are left out saw nothing.</summary>
    /// <param name="streams">Of one performer, in the order of the films.</param>
    /// <exception cref="DamagedDataException">Frames that nobody left out cannot be read; says which.</exception>
    public FilmValue ReadFilms(IReadOnlyList<SampleStream> streams, string what) =>
        new(
            [.. streams.Select(s => new FilmTake(s.FrameRate, [.. s.Names], ReadFloats(s, s.Names.Count * 3, what)))],
            [.. streams.Select(s => CameraRingJson.ReadCamera(s.Camera, s.Name))]
        );

    /// <summary>Stores what a performer's gloves measured.</summary>
    public Task WriteGloves(int takeId, int subject, GloveTake take, CancellationToken cancel = default, int recording = 1) =>
        WriteTable(
            takeId,
            subject,
            StreamKind.Gloves,
            StreamNames.Gloves(subject, recording),
            take.FrameRate,
            take.FrameCount,
            [],
            take.Samples,
            cancel
        );

    /// <summary>Stores what a tracker saw of a performer's face.</summary>
    public Task WriteFace(int takeId, int subject, FaceTake take, CancellationToken cancel = default, int recording = 1) =>
        WriteTable(
            takeId,
            subject,
            StreamKind.Face,
            StreamNames.Face(subject, recording),
            take.FrameRate,
            take.FrameCount,
            take.Names,
            take.Values,
            cancel
        );

    /// <summary>What gloves measured; frames that are left out are lost samples.</summary>
    /// <exception cref="DamagedDataException">Frames that nobody left out cannot be read; says which.</exception>
    public GloveTake ReadGloves(SampleStream stream, string what) => new(stream.FrameRate, ReadFloats(stream, GloveTake.Stride, what));

    /// <summary>What a tracker saw of a face; in frames that are left out it saw nothing.</summary>
    /// <exception cref="DamagedDataException">Frames that nobody left out cannot be read; says which.</exception>
    public FaceTake ReadFace(SampleStream stream, string what) =>
        new(stream.FrameRate, [.. stream.Names], ReadFloats(stream, stream.Names.Count + 1, what));

    /// <summary>A table of one performer's; the content it has a name by is told from its samples, its rate and its channels.</summary>
    private async Task WriteTable(
        int takeId,
        int subject,
        StreamKind kind,
        string name,
        double rate,
        int frames,
        IReadOnlyList<string> channels,
        float[] values,
        CancellationToken cancel
    )
    {
        var names = string.Join('\n', channels);
        var samples = Convert.ToHexString(XxHash128.Hash(MemoryMarshal.AsBytes<float>(values)));
        var stream = new SampleStream
        {
            TakeId = takeId,
            SubjectId = subject,
            Kind = kind,
            Name = name,
            FrameRate = rate,
            FrameCount = frames,
            Channels = names,
            Content = ContentHash.Text(ContentHash.Of($"{kind}|{rate:R}|{names}|{samples}")),
        };
        await InPieces(await Add(stream, cancel), values, frames, cancel);
    }

    /// <summary>Strokes of a film's picture, [frame × strokes × 5].</summary>
    public float[] ReadPicture(SampleStream stream, int stride, string what) => ReadFloats(stream, stride, what);

    private float[] ReadFloats(SampleStream stream, int stride, string what)
    {
        var values = new float[stream.FrameCount * stride];
        Array.Fill(values, float.NaN);
        foreach (var c in Whole(stream, what, c => c.Data.Length == c.FrameCount * stride * 4))
        {
            MemoryMarshal.Cast<byte, float>(c.Data).CopyTo(values.AsSpan(c.FirstFrame * stride));
        }

        return values;
    }

    private Task InPieces(SampleStream stream, float[] values, int frames, CancellationToken cancel)
    {
        var stride = values.Length / frames;
        return InPieces(stream, frames, (f, n) => MemoryMarshal.AsBytes(values.AsSpan(f * stride, n * stride)).ToArray(), cancel);
    }

    /// <summary>Raw markers; frames that are left out are hidden.</summary>
    /// <param name="what">The take, for the message when they are damaged.</param>
    /// <exception cref="DamagedDataException">Frames that nobody left out cannot be read; says which.</exception>
    public MarkerTake ReadMarkers(SampleStream stream, string what)
    {
        var names = stream.Names.ToArray();
        var positions = new Vector3[stream.FrameCount * names.Length];
        Array.Fill(positions, MarkerTake.Hidden);
        foreach (var c in Whole(stream, what, c => c.Data.Length == c.FrameCount * names.Length * 12))
        {
            MemoryMarshal.Cast<byte, Vector3>(c.Data).CopyTo(positions.AsSpan(c.FirstFrame * names.Length));
        }

        return new MarkerTake(names, stream.FrameRate, stream.FrameCount, positions);
    }

    /// <summary>Raw 2D; frames that are left out saw nothing.</summary>
    public CentroidTake ReadCentroids(SampleStream stream, int cameras, string what)
    {
        var builder = new CentroidTakeBuilder(cameras, stream.FrameRate);
        void Empty(int until)
        {
            while (builder.FrameCount < until)
            {
                builder.Add([], []);
            }
        }

        foreach (var c in Whole(stream, what, c => CentroidCodec.TryRead(c.Data, c.FrameCount, cameras, new(cameras, stream.FrameRate))))
        {
            Empty(c.FirstFrame);
            CentroidCodec.TryRead(c.Data, c.FrameCount, cameras, builder);
        }

        Empty(stream.FrameCount);
        return builder.Build();
    }

    /// <summary>Where a prop was; frames that are left out are hidden.</summary>
    public PropPlaces ReadPlaces(SampleStream stream, string what)
    {
        var (positions, turns) = (new Vector3[stream.FrameCount], new Quaternion[stream.FrameCount]);
        Array.Fill(positions, MarkerTake.Hidden);
        Array.Fill(turns, Quaternion.Identity);
        foreach (var c in Whole(stream, what, c => c.Data.Length == c.FrameCount * PlaceFloats * 4))
        {
            var v = MemoryMarshal.Cast<byte, float>(c.Data);
            for (var f = 0; f < c.FrameCount; f++)
            {
                var p = v.Slice(f * PlaceFloats, PlaceFloats);
                positions[c.FirstFrame + f] = new Vector3(p[0], p[1], p[2]);
                turns[c.FirstFrame + f] = new Quaternion(p[3], p[4], p[5], p[6]);
            }
        }

        return new PropPlaces(stream.FrameRate, positions, turns);
    }

    /// <summary>Frames whose samples are gone or do not match their checksum; of markers, 2D and places.</summary>
    public IReadOnlyList<FrameSpan> Damage(SampleStream stream) =>
        FrameSpans.Joined(Spans(stream, _ => true).Where(s => s.Chunk is null).Select(s => s.Span));

    public MotionValue ReadMotion(SampleStream stream, string what)
    {
        var chunks = Chunks(stream, what).ToList();
        var next = 1;
        return
            chunks.Count > 0 && ValueCodec.Read(chunks[0].Data, () => next < chunks.Count ? chunks[next++].Data : null) is MotionValue value
            ? value
            : throw new DamagedDataException($"{what}: the motion that was brought in is not whole");
    }

    public static long Hash(ReadOnlySpan<byte> data) => unchecked((long)XxHash64.HashToUInt64(data));

    private static byte[] Bytes(PropPlaces places, int first, int count)
    {
        var v = new float[count * PlaceFloats];
        for (var f = 0; f < count; f++)
        {
            Place(places.Positions[first + f], places.Turns[first + f], v.AsSpan(f * PlaceFloats));
        }

        return MemoryMarshal.AsBytes<float>(v).ToArray();
    }

    /// <summary>A place as it is stored.</summary>
    public static void Place(Vector3 position, Quaternion turn, Span<float> into)
    {
        (into[0], into[1], into[2]) = (position.X, position.Y, position.Z);
        (into[3], into[4], into[5], into[6]) = (turn.X, turn.Y, turn.Z, turn.W);
    }

    private async Task InPieces(SampleStream stream, int frames, Func<int, int, byte[]> bytes, CancellationToken cancel)
    {
        for (var f = 0; f < frames; f += FramesPerChunk)
        {
            var n = Math.Min(FramesPerChunk, frames - f);
            db.Chunks.Add(Row(stream.Id, f, n, bytes(f, n)));
            if (f / FramesPerChunk % 64 == 63)
            {
                // An hour is not held in memory a second time.
                await db.SaveChangesAsync(cancel);
                db.ChangeTracker.Clear();
            }
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>The chunks of a stream that are whole, in order. Frames between them must have been left out by a person.</summary>
    private IEnumerable<SampleChunk> Whole(SampleStream stream, string what, Func<SampleChunk, bool> fits)
    {
        var leftOut = FrameSpans.Read(stream.LeftOut);
        foreach (var (span, chunk) in Spans(stream, fits))
        {
            if (chunk is not null)
            {
                yield return chunk;
            }
            else if (!leftOut.Contain(span))
            {
                throw new DamagedDataException(
                    $"{what}: frames {span} of '{stream.Name}' are damaged: what is stored does not match its checksum, or is gone"
                );
            }
        }
    }

    /// <summary>All frames of a stream in order, chunk by chunk; without a chunk where it is gone or damaged.</summary>
    private IEnumerable<(FrameSpan Span, SampleChunk? Chunk)> Spans(SampleStream stream, Func<SampleChunk, bool> fits)
    {
        var next = 0;
        foreach (var c in db.Chunks.AsNoTracking().Where(c => c.StreamId == stream.Id).OrderBy(c => c.FirstFrame).AsEnumerable())
        {
            if (c.FirstFrame < next || c.FrameCount <= 0 || c.FirstFrame + c.FrameCount > stream.FrameCount)
            {
                continue;
            }

            if (c.FirstFrame > next)
            {
                yield return (new(next, c.FirstFrame - 1), null);
            }

            next = c.FirstFrame + c.FrameCount;
            yield return (new(c.FirstFrame, next - 1), Hash(c.Data) == c.Hash && fits(c) ? c : null);
        }

        if (next < stream.FrameCount)
        {
            yield return (new(next, stream.FrameCount - 1), null);
        }
    }

    private IEnumerable<SampleChunk> Chunks(SampleStream stream, string what)
    {
        foreach (var c in db.Chunks.AsNoTracking().Where(c => c.StreamId == stream.Id).OrderBy(c => c.FirstFrame).AsEnumerable())
        {
            yield return Hash(c.Data) == c.Hash
                ? c
                : throw new DamagedDataException($"{what}: the stored samples of '{stream.Name}' do not match their checksum");
        }
    }

    private static SampleChunk Row(int stream, int first, int count, byte[] data) =>
        new()
        {
            StreamId = stream,
            FirstFrame = first,
            FrameCount = count,
            Data = data,
            Hash = Hash(data),
        };
}
