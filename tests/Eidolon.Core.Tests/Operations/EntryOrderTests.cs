using System.Text.Json.Nodes;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Tests.Operations;

public sealed class EntryOrderTests
{
    private static readonly Entry[] Entries =
    [
        LabelOperations.Label.Entry(),
        MarkerOperations.Despike.Entry(),
        MarkerOperations.Fill.Entry(new JsonObject { ["longest"] = 5 }),
        MarkerOperations.Smooth.Entry() with
        {
            On = false,
        },
        SolveOperations.Solve.Entry(),
    ];

    private static string Told(IEnumerable<Entry> entries) => string.Join(' ', entries.Select(e => e.Operation));

    [Fact]
    public void Cleaning_may_change_its_order_and_nothing_else_may()
    {
        Assert.Equal("label smooth despike fill solve", Told(EntryOrder.Move(Entries, 3, 1)));
        Assert.Equal("label fill smooth despike solve", Told(EntryOrder.Move(Entries, 1, 3)));
        Assert.Contains(
            "cannot go before 'Label'",
            Assert.Throws<RefusedException>(() => EntryOrder.Move(Entries, 2, 0)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "cannot go after 'Solve'",
            Assert.Throws<RefusedException>(() => EntryOrder.Move(Entries, 3, 4)).Message,
            StringComparison.Ordinal
        );
        Assert.Throws<RefusedException>(() => EntryOrder.Move(Entries, 0, 9));
    }
}
