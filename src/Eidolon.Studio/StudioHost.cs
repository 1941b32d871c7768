using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Opening;
using Eidolon.Storage.Results;
using Eidolon.Studio.Api;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Security;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.HostFiltering;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.SignalR;
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
    /// <returns>0, or 1 when it could not start; one line on the error output says what to do.</returns>
    public static async Task<int> Run(string[] args, IStudioModule? module = null)
    {
        var clock = Stopwatch.StartNew();
        try
        {
            if (StudioArguments.Help(args, module?.Folder ?? "studio") is { } help)
            {
                Console.WriteLine(help);
                return 0;
            }

            var given = StudioArguments.Read(args, module?.Folder ?? "studio");
            Free(given);
            var app = Build(new StudioOptions(given.Data), module, new IPEndPoint(given.Listen, given.Port));
            try
            {
                await Prepare(app.Services, message => Console.WriteLine($"  {clock.Elapsed.TotalSeconds, 5:0.0} s  {message}"), module);
                await app.StartAsync();
                Console.WriteLine($"Eidolon is ready after {clock.Elapsed.TotalSeconds:0.0} s: {app.Urls.First()}");
                await app.WaitForShutdownAsync();
            }
            finally
            {
                await End(app);
            }

            return 0;
        }
        catch (Exception e) when (StartFaults.Words(e) is { } words)
        {
            await Console.Error.WriteLineAsync($"Eidolon cannot start: {words}");
            return 1;
        }
    }

    private static async Task End(WebApplication app)
    {
        try
        {
            await app.DisposeAsync();
        }
        catch (IOException)
        {
            // The disk is full: the last lines of the log have no room.
        }
    }

    /// <summary>The port is looked at before anything is made that takes a while.</summary>
    private static void Free(StudioArguments given)
    {
        using var probe = new TcpListener(given.Listen, given.Port);
        probe.Start();
    }

    /// <summary>Everything but the start: tests build the same application.</summary>
    /// <param name="listen">Where it listens, nothing but this decides on it; any free port of this machine alone when null.</param>
    public static WebApplication Build(StudioOptions options, IStudioModule? module = null, IPEndPoint? listen = null)
    {
        var endpoint = listen ?? new IPEndPoint(IPAddress.Loopback, 0);
        var builder = WebApplication.CreateBuilder(
            new WebApplicationOptions
            {
                Args = [],
                ContentRootPath = AppContext.BaseDirectory,
                ApplicationName = typeof(StudioHost).Assembly.GetName().Name,
                EnvironmentName = Environments.Production,
            }
        );
        // Settings of the surroundings could bind other addresses or serve other hosts.
        builder.Configuration.Sources.Clear();
        builder.WebHost.UseStaticWebAssets();
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.AddServerHeader = false;
            k.Limits.MaxRequestBodySize = StudioOptions.UploadLimit;
            k.Listen(endpoint);
        });
        builder.Services.AddSerilog(l =>
            l.MinimumLevel.Information()
                .MinimumLevel.Override("Microsoft", Serilog.Events.LogEventLevel.Warning)
                .MinimumLevel.Override("Quartz", Serilog.Events.LogEventLevel.Warning)
                .WriteTo.File(
                    new Serilog.Formatting.Json.JsonFormatter(),
                    Path.Combine(options.DataFolder, "log", "studio-.json"),
                    rollingInterval: RollingInterval.Day,
                    fileSizeLimitBytes: StudioOptions.LogLimit,
                    retainedFileCountLimit: 7
                )
        );
        AddServices(builder.Services, options);
        AddGuards(builder.Services, options, endpoint.Address);
        module?.AddServices(builder.Services);
        builder.Services.TryAddSingleton<IStandIns, NoStandIns>();
        var app = builder.Build();
        app.UseMiddleware<SecurityHeaders>();
        app.UseMiddleware<OwnPagesOnly>();
        app.UseExceptionHandler(new ExceptionHandlerOptions { ExceptionHandlingPath = "/fault", StatusCodeSelector = Answers.CodeOf });
        app.UseStatusCodePagesWithReExecute("/fault", "?code={0}");
        app.UseStaticFiles();
        app.UseRouting();
        app.UseAntiforgery();
        app.MapRazorPages();
        app.MapHub<LiveHub>($"{OwnPagesOnly.Hubs}/live");
        app.MapHub<HoldHub>($"{OwnPagesOnly.Hubs}/hold");
        app.MapHealthChecks("/healthz");
        StageApi.Map(app);
        FitApi.Map(app);
        CharacterApi.Map(app);
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
        var folder = services.GetRequiredService<StudioFolder>();
        folder.Hold();
        StudioFolder.Own(options.JobDatabase);
        using (var scope = services.CreateScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
            await StudioDatabase.Open(db, options.Database, folder.CutOff, say);
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
        services.AddSingleton(_ => new StudioFolder(options.DataFolder));
        services.AddDbContextFactory<EidolonDb>(o => o.UseSqlite($"Data Source={options.Database};Default Timeout=30"));
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton<ResourceMemory>();
        services.AddSingleton(new BlobStore(options.Blobs));
        services.AddSingleton<IResultStore>(_ => new ResultStore(options.Results, options.ResultLimit));
        services.AddSingleton<LedgerBook>();
        services.AddSingleton<SubjectLibrary>();
        services.AddSingleton<Aside>();
        services.AddSingleton<DamageRepair>();
        services.AddHostedService<AsideSweep>();
        services.AddSingleton<Faults>();
        services.AddSingleton<DiskRoom>();
        services.AddSingleton<JobCancels>();
        services.AddSingleton<StateNotes>();
        services.AddSingleton<BoardCounts>();
        services.AddHostedService(s => s.GetRequiredService<BoardCounts>());
        services.AddScoped<SampleStore>();
        services.AddScoped<TakeService>();
        services.AddScoped<SolveStates>();
        services.AddScoped<SizeService>();
        services.AddScoped<CompareDesk>();
        services.AddSingleton<FitDesk>();
        services.AddSingleton<PairMemory>();
        services.AddScoped<SceneService>();
        services.AddScoped<ClipShelf>();
        services.AddScoped<CastService>();
        services.AddScoped<CastBatch>();
        services.AddScoped<FollowUps>();
        services.AddSingleton<RecordedDevices>();
        services.AddScoped<PlanFiles>();
        services.AddScoped<BoardService>();
        services.AddScoped<JobBook>();
        services.AddScoped<MarkerSetLibrary>();
        services.AddScoped<Slates>();
        services.AddScoped<FrameNotes>();
        services.AddScoped<Films>();
        services.AddScoped<ShelfService>();
        services.AddScoped<RecordDesk>();
        services.AddScoped<Productions>();
        services.AddSingleton<HoldSessions>();
        services.AddSingleton<TrackSessions>();
        services.AddSingleton<StageSettings>();
        services.AddHostedService<JobRecovery>();
        services.AddScoped<RecipeService>();
        services.AddScoped<LedgerService>();
        services.AddScoped<JobQueue>();
        services.AddScoped<TakeImport>();
        services.AddScoped<RideImport>();
        services.AddSingleton<ImportDesk>();
        services.AddScoped<HandOffService>();
        services.AddScoped<NonceSource>();
        AddStage(services);
        services.Configure<HostOptions>(o => o.BackgroundServiceExceptionBehavior = BackgroundServiceExceptionBehavior.Ignore);
        services
            .AddRazorPages(o => o.Conventions.ConfigureFilter(new Microsoft.AspNetCore.Mvc.AutoValidateAntiforgeryTokenAttribute()))
            .AddMvcOptions(o =>
            {
                o.SuppressImplicitRequiredAttributeForNonNullableReferenceTypes = true;
                o.ModelMetadataDetailsProviders.Add(new PlainTexts());
                o.ModelBinderProviders.Insert(0, new FiniteNumbers());
                PlainRefusals.Set(o.ModelBindingMessageProvider);
                o.Filters.Add<FormGuard>();
            });
        services.AddAntiforgery(o => o.HeaderName = "X-Antiforgery");
        services.AddSignalR().AddMessagePackProtocol();
        services.AddHealthChecks().AddDbContextCheckLite();
        services.Configure<FormOptions>(o => o.MultipartBodyLengthLimit = StudioOptions.UploadLimit);
        services.AddSingleton<JobsInHand>();
        services.AddHostedService(s => s.GetRequiredService<JobsInHand>());
        services.AddQuartz(q =>
        {
            q.UseDefaultThreadPool(pool => pool.MaxConcurrency = Environment.ProcessorCount);
            q.UsePersistentStore(store =>
            {
                store.UseSqlite(SqliteFactory.Instance, $"Data Source={options.JobDatabase}");
                store.UseSystemTextJsonSerializer();
                store.ProvisionSchema();
            });
        });
        services.AddQuartzHostedService(o => o.WaitForJobsToComplete = false);
    }

    /// <summary>Who may ask: this machine by its own names, pages of this studio, calls that were checked.</summary>
    private static void AddGuards(IServiceCollection services, StudioOptions options, IPAddress listen)
    {
        services.Configure<HostFilteringOptions>(o =>
        {
            o.AllowEmptyHosts = false;
            o.AllowedHosts = [.. new[] { "127.0.0.1", "localhost", "[::1]", Named(listen) }.Distinct()];
        });
        services.AddDataProtection().SetApplicationName("Eidolon").PersistKeysToFileSystem(new DirectoryInfo(options.Keys));
        services.AddSingleton<HubToken>();
        services.AddSingleton<HubGuard>();
        services.Configure<HubOptions>(o => o.AddFilter<HubGuard>());
    }

    private static string Named(IPAddress address) =>
        address.AddressFamily == System.Net.Sockets.AddressFamily.InterNetworkV6 ? $"[{address}]" : address.ToString();

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
        services.AddSingleton(s => new SuitFeed(s.GetRequiredService<DeviceRack>().Find("suit")!, s.GetRequiredService<Faults>()));
        services.AddSingleton<WitnessCheck>();
        services.AddSingleton<StageStatus>();
        Hosted<Recorder>();
        Hosted<StagePulse>();
    }
}
