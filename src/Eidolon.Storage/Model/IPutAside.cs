namespace Eidolon.Storage.Model;

/// <summary>Something that can be put aside and brought back, see Aside.</summary>
public interface IPutAside
{
    int Id { get; }

    string Name { get; }

    /// <summary>When it was put aside; null while it is in use.</summary>
    DateTime? AsideUtc { get; set; }
}
