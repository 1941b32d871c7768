using Eidolon.Studio;
using Eidolon.Studio.Live;

namespace Eidolon.Demo;

/// <summary>Stand-in devices and the demo production Harbour Lights.</summary>
public sealed class DemoModule : IStudioModule
{
    public string Folder => "demo";

    public void AddServices(IServiceCollection services)
    {
        services.AddSingleton<StandInStage>();
        services.AddSingleton<IStandIns>(s => s.GetRequiredService<StandInStage>());
        services.AddHostedService(s => s.GetRequiredService<StandInStage>());
    }

    public Task Prepare(IServiceProvider services, Action<string> say, CancellationToken cancel = default) =>
        DemoProduction.MakeIfMissing(services, say, cancel);
}
