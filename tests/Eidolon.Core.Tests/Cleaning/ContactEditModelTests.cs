using CsCheck;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Cleaning;

/// <summary>Edits of contacts against the plainest model there is: a flag for every frame.</summary>
public sealed class ContactEditModelTests
{
    private const int Frames = 60;

    private static readonly Gen<(int Start, int End)> Ranges = Gen.Select(Gen.Int[0, Frames - 1], Gen.Int[0, 20])
        .Select((start, length) => (start, Math.Min(Frames - 1, start + length)));

    private static readonly Gen<ContactEdit> Edits = Gen.Select(Ranges, Gen.Bool, Gen.Int[0, 1], Gen.Bool)
        .Select(
            (range, left, point, planted) =>
                new ContactEdit(point == 0 ? ContactPoint.Heel : ContactPoint.Toe, left ? 'L' : 'R', range.Start, range.End, planted)
        );

    private static bool[] Flags(IEnumerable<PointContact> contacts, ContactPoint point, char side)
    {
        var flags = new bool[Frames];
        foreach (var c in contacts.Where(c => c.Point == point && c.Side == side))
        {
            Array.Fill(flags, true, c.Start, c.End - c.Start + 1);
        }

        return flags;
    }

    [Fact]
    public void The_last_word_counts_frame_by_frame_and_touches_nothing_else() =>
        Gen.Select(Ranges.Array[0, 4], Edits.Array[0, 8])
            .Sample(
                (found, edits) =>
                {
                    // What was found never overlaps itself.
                    var own = found
                        .Where((r, i) => !found.Take(i).Any(o => o.Start <= r.End + 1 && r.Start <= o.End + 1))
                        .Select(r => new PointContact(ContactPoint.Heel, 'L', r.Start, r.End))
                        .ToArray();
                    var result = ContactEdits.Apply(own, edits);
                    foreach (var point in new[] { ContactPoint.Heel, ContactPoint.Toe })
                    {
                        foreach (var side in "LR")
                        {
                            var expected = Flags(own, point, side);
                            foreach (var e in edits.Where(e => e.Point == point && e.Side == side))
                            {
                                Array.Fill(expected, e.Planted, e.Start, e.End - e.Start + 1);
                            }

                            Assert.Equal(expected, Flags(result, point, side));
                            // Contacts of one point never overlap or touch where a person planted them.
                            var mine = result.Where(c => c.Point == point && c.Side == side).ToArray();
                            Assert.All(mine.Zip(mine.Skip(1)), p => Assert.True(p.First.End < p.Second.Start));
                        }
                    }

                    Assert.Equal(result.OrderBy(c => c.Start), result);
                    Assert.All(result, c => Assert.True(c.Start <= c.End));
                }
            );

    [Fact]
    public void Joints_hear_of_heels_and_toes_and_of_nothing_else()
    {
        Contact[] found = [new(BodyRole.FootL, 10, 20), new(BodyRole.ToesR, 5, 30)];
        Assert.Equal(found, ContactEdits.Apply(found, []));
        var edited = ContactEdits.Apply(
            found,
            [
                new ContactEdit(ContactPoint.Heel, 'L', 15, 40, true),
                new ContactEdit(ContactPoint.Toe, 'R', 10, 12, false),
                new ContactEdit(ContactPoint.Seat, 'C', 0, 50, true),
                new ContactEdit(ContactPoint.Hand, 'R', 0, 50, true),
            ]
        );
        Assert.Equal(
            [new Contact(BodyRole.FootL, 10, 40), new(BodyRole.ToesR, 5, 9), new(BodyRole.ToesR, 13, 30)],
            edited.OrderBy(c => c.Role).ThenBy(c => c.Start)
        );
        Assert.Equal(31, edited[0].Length);
    }
}
