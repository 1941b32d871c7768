using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>A job that makes a version of a subject, and what it says when the version is kept.</summary>
public sealed record JobEnd(int Job, Func<SubjectVersion, string> Said);

/// <summary>How jobs and what follows them are kept with what they make: in one transaction.</summary>
public static class Jobs
{
    /// <summary>Marks a job done in the caller's transaction; false when it was already: what a job makes is kept once, however often it is started.</summary>
    public static bool End(this EidolonDb db, int job, string message, DateTime now) =>
        db.Jobs.Where(j => j.Id == job && j.State != JobState.Done)
            .ExecuteUpdate(s =>
                s.SetProperty(j => j.State, JobState.Done)
                    .SetProperty(j => j.Message, message)
                    .SetProperty(j => j.Progress, 1)
                    .SetProperty(j => j.EndedUtc, now)
            ) == 1;

    /// <summary>Notes in the caller's transaction that something is to follow a change of a Ledger.</summary>
    public static void Changed(this EidolonDb db, LedgerOwner owner) => Note(db, owner.Key, owner.TakeId, owner.SceneId, null);

    /// <summary>Notes in the caller's transaction that something is to follow a new version of a subject.</summary>
    public static void Changed(this EidolonDb db, int subject) => Note(db, $"subject {subject}", null, null, subject);

    private static void Note(EidolonDb db, string key, int? take, int? scene, int? subject) =>
        db.Database.ExecuteSql(
            $"""
            INSERT INTO "Outbox" ("Key", "TakeId", "SceneId", "SubjectId", "Stamp") VALUES ({key}, {take}, {scene}, {subject}, 1)
            ON CONFLICT ("Key") DO UPDATE SET "Stamp" = "Stamp" + 1
            """
        );
}
