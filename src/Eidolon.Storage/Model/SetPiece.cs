namespace Eidolon.Storage.Model;

/// <summary>Something that stands in a take and is no prop: a gangplank, steps, a bollard with its rope, a net.</summary>
public sealed class SetPiece
{
    public int Id { get; set; }

    public int TakeId { get; set; }

    /// <summary>gangplank, steps, bollard, net, mooring-line, lamp-post.</summary>
    public required string Kind { get; set; }

    /// <summary>On the floor, metres.</summary>
    public double X { get; set; }

    public double Z { get; set; }

    /// <summary>About the vertical, degrees; 0 faces +Z.</summary>
    public double Heading { get; set; }
}
