namespace Eidolon.Storage.Model;

/// <summary>Whose Ledger it is: a take's or a scene's.</summary>
public readonly record struct LedgerOwner(int? TakeId, int? SceneId)
{
    public static LedgerOwner Take(int id) => new(id, null);

    public static LedgerOwner Scene(int id) => new(null, id);

    /// <summary>"t7" or "s3".</summary>
    public string Key => TakeId is { } t ? $"t{t}" : $"s{SceneId}";
}
