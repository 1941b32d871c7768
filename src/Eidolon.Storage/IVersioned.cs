namespace Eidolon.Storage;

/// <summary>Resources whose change makes earlier results stale.</summary>
public interface IVersioned
{
    string Version { get; }
}
