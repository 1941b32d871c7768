using System.Diagnostics;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Results;
using Eidolon.Storage.Upgrade;
using Eidolon.Studio.Api;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Security;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.Server.Kestrel.Core;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection.Extensions;
using Quartz;
using Serilog;

namespace Eidolon.Studio;

/// <summary>Builds and runs the studio.</summary>
public static class StudioHost
{
    /// <param name="module">What comes with the studio beyond its own, e.g. stand-ins and a demo production.</param>
    public static async Task<int> Run(string[] args, IStudioModule? module = null)
    {
        var port = Value(args, "--port") is { } p && int.TryParse(p, out var n) ? n : 5240;
        var data = Value(args, "--data") ?? Path.Combine(Directory.GetCurrentDirectory(), ".eidolon", module?.Folder ?? "studio");
        var clock = Stopwatch.StartNew();
        var app = Build(new StudioOptions(data), $"http://127.0.0.1:{port}", module);
        await Prepare(app.Services, message => Console.WriteLine($"  {clock.Elapsed.TotalSeconds, 5:0.0} s  {message}"), module);
        await app.StartAsync();
        Console.WriteLine($"Eidolon is ready after {clock.Elapsed.TotalSeconds:0.0} s: {app.Urls.First()}");
        await app.WaitForShutdownAsync();
        return 0;
    }

    /// <summary>Everything but the start: tests build the same application.</summary>
    public static WebApplication Build(StudioOptions options, string url, IStudioModule? module = null)
    {
        Directory.CreateDirectory(options.DataFolder);
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions
            {
                Args = [],
                ContentRootPath = AppContext.BaseDirectory,
                ApplicationName = typeof(StudioHost).Assembly.GetName().Name,
            }
        );
        builder.WebHost.UseUrls(url).UseStaticWebAssets();
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.AddServerHeader = false;
            k.Limits.MaxRequestBodySize = StudioOptions.UploadLimit;
        });
        builder.Services.AddSerilog(l =>
            l.MinimumLevel.Information()
                .MinimumLevel.Override("Microsoft", Serilog.Events.LogEventLevel.Warning)
                .MinimumLevel.Override("Quartz", Serilog.Events.LogEventLevel.Warning)
                .WriteTo.File(
                    new Serilog.Formatting.Json.JsonFormatter(),
                    Path.Combine(options.DataFolder, "log", "studio-.json"),
                    rollingInterval: RollingInterval.Day,
                    retainedFileCountLimit: 7
                )
        );
        AddServices(builder.Services, options);
        module?.AddServices(builder.Services);
        builder.Services.TryAddSingleton<IStandIns, NoStandIns>();
        var app = builder.Build();
        app.UseMiddleware<SecurityHeaders>();
        app.UseExceptionHandler("/fault");
        app.UseStatusCodePagesWithReExecute("/fault", "?code={0}");
        app.UseStaticFiles();
        app.UseRouting();
        app.UseAntiforgery();
        app.MapRazorPages();
        app.MapHub<LiveHub>("/hubs/live");
        app.MapHub<HoldHub>("/hubs/hold");
        app.MapHealthChecks("/healthz");
        StageApi.Map(app);
        LiveApi.Map(app);
        ImportApi.Map(app);
        SceneApi.Map(app);
        FileApi.Map(app);
        return app;
    }

    /// <summary>Database up to date, cut-off recordings kept, what the module brings made.</summary>
    public static async Task Prepare(IServiceProvider services, Action<string> say, IStudioModule? module = null)
    {
        var options = services.GetRequiredService<StudioOptions>();
        await StudioUpgrade.Run(options.DataFolder, services.GetRequiredService<BlobStore>(), say);
        using (var scope = services.CreateScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
            await db.Database.MigrateAsync();
            await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL;");
            if (await RecordingRecovery.Run(db) is > 0 and var cut)
            {
                say($"{cut} recording{(cut == 1 ? string.Empty : "s")} cut off by the last stop kept up to the last half second");
            }
        }

        if (module is not null)
        {
            await module.Prepare(services, say);
        }

        services.GetRequiredService<StageSettings>().Read();
    }

    private static void AddServices(IServiceCollection services, StudioOptions options)
    {
        services.AddSingleton(options);
        services.AddDbContextFactory<EidolonDb>(o => o.UseSqlite($"Data Source={options.Database};Default Timeout=30"));
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton<ResourceMemory>();
        services.AddSingleton(new BlobStore(options.Blobs));
        services.AddSingleton<IResultStore>(_ => new ResultStore(options.Results, options.ResultLimit));
        services.AddSingleton<LedgerBook>();
        services.AddSingleton<SubjectLibrary>();
        services.AddSingleton<JobCancels>();
        services.AddSingleton<StateNotes>();
        services.AddSingleton<BoardCounts>();
        services.AddHostedService(s => s.GetRequiredService<BoardCounts>());
        services.AddScoped<SampleStore>();
        services.AddScoped<TakeService>();
        services.AddScoped<SceneService>();
        services.AddScoped<CastService>();
        services.AddScoped<FollowUps>();
        services.AddScoped<BoardService>();
        services.AddSingleton<HoldSessions>();
        services.AddSingleton<StageSettings>();
        services.AddHostedService<JobRecovery>();
        services.AddScoped<RecipeService>();
        services.AddScoped<LedgerService>();
        services.AddScoped<JobQueue>();
        services.AddScoped<TakeImport>();
        services.AddSingleton<ImportDesk>();
        services.AddScoped<HandOffService>();
        services.AddScoped<NonceSource>();
        AddStage(services);
        services.AddRazorPages(o => o.Conventions.ConfigureFilter(new Microsoft.AspNetCore.Mvc.AutoValidateAntiforgeryTokenAttribute()));
        services.AddAntiforgery(o => o.HeaderName = "X-Antiforgery");
        services.AddSignalR().AddMessagePackProtocol();
        services.AddHealthChecks().AddDbContextCheckLite();
        services.Configure<FormOptions>(o => o.MultipartBodyLengthLimit = StudioOptions.UploadLimit);
        services.AddQuartz(q =>
            q.UsePersistentStore(store =>
            {
                store.UseSqlite(SqliteFactory.Instance, $"Data Source={options.JobDatabase}");
                store.UseSystemTextJsonSerializer();
                store.ProvisionSchema();
            })
        );
        services.AddQuartzHostedService(o => o.WaitForJobsToComplete = false);
    }

    /// <summary>The live side: rack, ring, stage, recorder; each runs as long as the studio.</summary>
    private static void AddStage(IServiceCollection services)
    {
        void Hosted<T>()
            where T : class, IHostedService
        {
            services.AddSingleton<T>();
            services.AddHostedService(s => s.GetRequiredService<T>());
        }

        Hosted<DeviceRack>();
        services.AddSingleton<RingAssembler>();
        services.AddSingleton<LiveCast>();
        services.AddSingleton<LiveAudience>();
        Hosted<LiveStage>();
        services.AddSingleton<RingPreparation>();
        services.AddSingleton<SuitCheck>();
        services.AddSingleton<WitnessCheck>();
        services.AddSingleton<StageStatus>();
        Hosted<Recorder>();
        Hosted<StagePulse>();
    }

    private static string? Value(string[] args, string name)
    {
        var i = Array.IndexOf(args, name);
        return i >= 0 && i + 1 < args.Length ? args[i + 1] : null;
    }
}
