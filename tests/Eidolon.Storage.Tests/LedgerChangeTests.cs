using System.Text.Json.Nodes;
using Eidolon.Storage.Ledger;

namespace Eidolon.Storage.Tests;

/// <summary>Changes wait in a queue as text: what is read back must ask for the same.</summary>
public sealed class LedgerChangeTests
{
    public static TheoryData<LedgerChange> Changes =>
        [
            new AddEntries("fill", new JsonObject { ["longest"] = 12.5, ["marker"] = "Crown" }, node: 7, at: 2),
            new AddEntries([
                new NewEntry("solve", []),
                new NewEntry("retarget", new JsonObject { ["place"] = new JsonObject { ["HandL"] = 80 } }),
            ]),
            new EditEntry(4, new JsonObject { ["cutoff"] = 8 }),
            new SwitchEntry(4, false),
            new MoveEntry(4, 1),
            new RemoveEntry(4),
            new TakeBackEntry(),
            new BringAgain(),
            new RestoreVersion("[]"),
            new BackToOriginal(),
            new BringUpVersion(4),
        ];

    [Theory]
    [MemberData(nameof(Changes))]
    public void A_change_is_read_as_it_was_written(LedgerChange change)
    {
        var text = change.ToJson();
        var back = LedgerChange.FromJson(text);
        Assert.Equal(change.GetType(), back.GetType());
        Assert.Equal(text, back.ToJson());
    }

    [Fact]
    public void Every_kind_of_change_is_tried_above()
    {
        var kinds = typeof(LedgerChange).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(LedgerChange)) && !t.IsAbstract);
        Assert.Empty(kinds.Except(Changes.Cast<object[]>().Select(c => c[0].GetType())));
    }
}
