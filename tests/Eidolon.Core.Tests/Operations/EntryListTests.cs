using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Tests.Operations;

public sealed class EntryListTests
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
        MotionOperations.Solve.Entry(),
    ];

    private static string Told(IEnumerable<Entry> entries) => string.Join(' ', entries.Select(e => e.Operation));

    [Fact]
    public void What_is_written_is_read_again()
    {
        var back = EntryList.Read(EntryList.Write(Entries));
        Assert.Equal(
            Entries.Select(e => (e.Operation, e.Version, e.On, e.Parameters.ToJsonString())),
            back.Select(e => (e.Operation, e.Version, e.On, e.Parameters.ToJsonString()))
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("{}")]
    [InlineData("[3]")]
    [InlineData("""[{ "operation": "magic", "version": 1, "parameters": {}, "on": true }]""")]
    [InlineData("""[{ "operation": "fill" }]""")]
    public void What_is_no_list_of_entries_is_refused(string json) => Assert.Throws<ArgumentException>(() => EntryList.Read(json));

    [Fact]
    public void Cleaning_may_change_its_order_and_nothing_else_may()
    {
        Assert.Equal("label smooth despike fill solve", Told(EntryList.Move(Entries, 3, 1)));
        Assert.Equal("label fill smooth despike solve", Told(EntryList.Move(Entries, 1, 3)));
        Assert.Contains(
            "cannot go before 'Label'",
            Assert.Throws<ArgumentException>(() => EntryList.Move(Entries, 2, 0)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "cannot go after 'Solve'",
            Assert.Throws<ArgumentException>(() => EntryList.Move(Entries, 3, 4)).Message,
            StringComparison.Ordinal
        );
        Assert.Throws<ArgumentException>(() => EntryList.Move(Entries, 0, 9));
    }
}
