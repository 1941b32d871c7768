namespace Eidolon.Core.Cleaning;

/// <summary>Puts what a person has decided over what was found; later decisions win. What was found outside of them stays as it is.</summary>
public static class ContactEdits
{
    /// <summary>Contacts as they were found with a person's word put over them, in the order it was given.</summary>
    public static List<PointContact> Apply(IEnumerable<PointContact> found, IReadOnlyList<ContactEdit> edits)
    {
        var result = found.ToList();
        foreach (var e in edits)
        {
            var next = new List<PointContact>();
            var (start, end) = (e.Start, e.End);
            foreach (var c in result)
            {
                if (
                    c.Point != e.Point
                    || c.Side != e.Side
                    || c.End < e.Start - (e.Planted ? 1 : 0)
                    || c.Start > e.End + (e.Planted ? 1 : 0)
                )
                {
                    next.Add(c);
                }
                else if (e.Planted)
                {
                    // What touches the planted range is one contact with it.
                    (start, end) = (Math.Min(start, c.Start), Math.Max(end, c.End));
                }
                else
                {
                    if (c.Start < e.Start)
                    {
                        next.Add(c with { End = e.Start - 1 });
                    }

                    if (c.End > e.End)
                    {
                        next.Add(c with { Start = e.End + 1 });
                    }
                }
            }

            if (e.Planted)
            {
                next.Add(new PointContact(e.Point, e.Side, start, end));
            }

            result = next;
        }

        return [.. result.OrderBy(c => c.Start)];
    }

    /// <summary>The same for the contacts of foot joints: the heel stands for the ankle, the toe for the toes.</summary>
    public static List<Contact> Apply(IEnumerable<Contact> found, IReadOnlyList<ContactEdit> edits)
    {
        if (edits.Count == 0)
        {
            return [.. found];
        }

        var points = found.Select(c => new PointContact(
            c.Role is Skeletons.BodyRole.FootL or Skeletons.BodyRole.FootR ? ContactPoint.Heel : ContactPoint.Toe,
            Skeletons.BodyRoles.Side(c.Role),
            c.Start,
            c.End
        ));
        return
        [
            .. Apply(points, edits)
                .Where(c => c.Point is ContactPoint.Heel or ContactPoint.Toe)
                .Select(c => new Contact(BodyContacts.RoleOf(c), c.Start, c.End))
                .OrderBy(c => c.Role)
                .ThenBy(c => c.Start),
        ];
    }
}
