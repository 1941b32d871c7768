using Eidolon.Core.Operations;

namespace Eidolon.Storage.Model;

/// <summary>A node of a take's or a scene's Ledger.</summary>
public sealed class NodeRow
{
    public int Id { get; set; }

    public int? TakeId { get; set; }

    public int? SceneId { get; set; }

    public NodeKind Kind { get; set; }

    /// <summary>The performer, prop or, in a scene, character it is about; 0 for the markers of a take.</summary>
    public int SubjectId { get; set; }

    /// <summary>The character a cast drives; 0 elsewhere.</summary>
    public int TargetId { get; set; }

    /// <summary>What tells nodes of one subject apart: what a solve is made from, which of a character's tracks in a scene it is.</summary>
    public string Source { get; set; } = MarkerSource;

    /// <summary>When a track was taken off its scene; null for all that is there.</summary>
    public DateTime? AsideUtc { get; set; }

    public const string MarkerSource = "markers";

    /// <summary>A character's further tracks in a scene, from 2.</summary>
    public static string TrackSource(int number) => number < 2 ? MarkerSource : $"track {number}";

    public List<EntryRow> Entries { get; } = [];
}
