using System.ComponentModel.DataAnnotations;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>The film beside a take: put in, lined up, taken out.</summary>
public sealed class Films(EidolonDb db, BlobStore blobs)
{
    /// <summary>How a film lies beside its take.</summary>
    public sealed record Lines : IValidatableObject
    {
        private const string Wrong = "Offset, speed and trim want numbers; the trim ends after it begins (0 is the film's end).";

        /// <summary>Seconds the film begins after the take.</summary>
        [Range(-1e5, 1e5, ErrorMessage = Wrong)]
        public double Offset { get; init; }

        /// <summary>1 as it was shot; 0.25 for a film in slow motion.</summary>
        [Range(0.01, 16, ErrorMessage = Wrong)]
        public double Speed { get; init; } = 1;

        /// <summary>Seconds of the film that are left out at its beginning.</summary>
        [Range(0, 1e5, ErrorMessage = Wrong)]
        public double From { get; init; }

        /// <summary>Second at which it ends; 0 for its own end.</summary>
        [Range(-1e5, 1e5, ErrorMessage = Wrong)]
        public double To { get; init; }

        public IEnumerable<ValidationResult> Validate(ValidationContext validationContext)
        {
            if (To != 0 && To <= From)
            {
                yield return new ValidationResult(Wrong);
            }
        }
    }

    public Task<WitnessVideo?> Of(int take, CancellationToken cancel) =>
        db.Videos.AsNoTracking().FirstOrDefaultAsync(v => v.TakeId == take, cancel);

    /// <summary>Puts a film beside a take, in the place of the one there was.</summary>
    /// <exception cref="RefusedException">It is no film that a browser plays; nothing was changed.</exception>
    public async Task Put(int take, string fileName, Stream film, CancellationToken cancel)
    {
        var head = new byte[16];
        var read = await film.ReadAtLeastAsync(head, head.Length, throwOnEndOfStream: false, cancel);
        var type = TypeOf(head.AsSpan(0, read))
            ?? throw new RefusedException($"{fileName}: byte 0: this is neither an mp4 nor a webm film.");
        film.Position = 0;
        var blob = await blobs.Keep(db, film, cancel);
        await Drop(take, cancel);
        db.Videos.Add(
            new WitnessVideo
            {
                TakeId = take,
                FileName = fileName,
                ContentType = type,
                BlobId = blob.Id,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    public Task Set(int take, Lines lines, CancellationToken cancel) =>
        db
            .Videos.Where(v => v.TakeId == take)
            .ExecuteUpdateAsync(
                s =>
                    s.SetProperty(v => v.OffsetSeconds, lines.Offset)
                        .SetProperty(v => v.Speed, lines.Speed)
                        .SetProperty(v => v.TrimStart, lines.From)
                        .SetProperty(v => v.TrimEnd, lines.To),
                cancel
            );

    /// <summary>Keeps where it was shot from.</summary>
    public Task Place(int take, JsonObject camera, CancellationToken cancel) =>
        db.Videos.Where(v => v.TakeId == take).ExecuteUpdateAsync(s => s.SetProperty(v => v.Camera, camera.ToJsonString()), cancel);

    public Task Drop(int take, CancellationToken cancel) => db.Videos.Where(v => v.TakeId == take).ExecuteDeleteAsync(cancel);

    /// <summary>By the first bytes: EBML for webm, a file-type box for mp4.</summary>
    private static string? TypeOf(ReadOnlySpan<byte> bytes) =>
        bytes.StartsWith((ReadOnlySpan<byte>)[0x1A, 0x45, 0xDF, 0xA3]) ? "video/webm"
        : bytes.Length > 12 && bytes[4..8].SequenceEqual("ftyp"u8) ? "video/mp4"
        : null;
}
