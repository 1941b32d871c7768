namespace Eidolon.Studio;

/// <summary>Something that comes with a studio beyond its own, such as stand-ins with a demo production. A studio of one's own starts without.</summary>
public interface IStudioModule
{
    /// <summary>Name of the folder its data lie in when none is given.</summary>
    string Folder { get; }

    void AddServices(IServiceCollection services);

    /// <summary>Runs once the database is up to date, before anybody is served.</summary>
    Task Prepare(IServiceProvider services, Action<string> say, CancellationToken cancel = default);
}
