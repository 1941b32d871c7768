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

    /// <summary>What a solve is made from: "markers"; later "suit" or "film" beside it.</summary>
    public string Source { get; set; } = MarkerSource;

    public const string MarkerSource = "markers";

    public List<EntryRow> Entries { get; } = [];
}
