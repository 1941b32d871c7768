using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;

namespace Eidolon.Storage.Ledger;

/// <summary>What a person asked of a Ledger, as data: it can wait in a queue, be tried again on a later state, and be told from another wish.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "change")]
[JsonDerivedType(typeof(AddEntries), "add")]
[JsonDerivedType(typeof(EditEntry), "edit")]
[JsonDerivedType(typeof(SwitchEntry), "switch")]
[JsonDerivedType(typeof(MoveEntry), "move")]
[JsonDerivedType(typeof(RemoveEntry), "remove")]
[JsonDerivedType(typeof(TakeBackEntry), "take-back")]
[JsonDerivedType(typeof(BringAgain), "again")]
[JsonDerivedType(typeof(RestoreVersion), "restore")]
[JsonDerivedType(typeof(BackToOriginal), "original")]
[JsonDerivedType(typeof(BringUpVersion), "bring-up")]
public abstract record LedgerChange
{
    private protected LedgerChange() { }

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web);

    public string ToJson() => JsonSerializer.Serialize(this, Options);

    public static LedgerChange FromJson(string json) =>
        JsonSerializer.Deserialize<LedgerChange>(json, Options) ?? throw new JsonException("there is no change");
}

/// <summary>An operation and its parameters, to become an entry.</summary>
/// <param name="Node">The node it goes to; null for every node of the operation's kind: a Recipe does not know them.</param>
/// <param name="At">The place in the node; null where the operation goes by itself.</param>
public sealed record NewEntry(string Operation, JsonObject Parameters, int? Node = null, int? At = null);

/// <summary>New entries; all of them or none.</summary>
[method: JsonConstructor]
public sealed record AddEntries(IReadOnlyList<NewEntry> Entries) : LedgerChange
{
    public AddEntries(string operation, JsonObject parameters, int? node = null, int? at = null)
        : this([new NewEntry(operation, parameters, node, at)]) { }
}

/// <summary>Other parameters; what is not named stays.</summary>
public sealed record EditEntry(int Entry, JsonObject Parameters) : LedgerChange;

public sealed record SwitchEntry(int Entry, bool On) : LedgerChange;

/// <summary>To another place of its node.</summary>
public sealed record MoveEntry(int Entry, int To) : LedgerChange;

public sealed record RemoveEntry(int Entry) : LedgerChange;

/// <summary>Takes back the entry that was added last, whatever its node.</summary>
public sealed record TakeBackEntry : LedgerChange;

/// <summary>Brings the entry again that was taken back last.</summary>
public sealed record BringAgain : LedgerChange;

/// <summary>A named version in the place of the Ledger.</summary>
public sealed record RestoreVersion(string Entries) : LedgerChange;

/// <summary>No entries at all; what there was is kept as a version first.</summary>
public sealed record BackToOriginal : LedgerChange;

/// <summary>An entry that an older version of its operation made is asked of the present one.</summary>
public sealed record BringUpVersion(int Entry) : LedgerChange;
