using System.Globalization;
using System.IO.Compression;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.ResponseCompression;
using NeatCrate.App.Backups;
using NeatCrate.App.Bundles;
using NeatCrate.App.CopyIn;
using NeatCrate.App.Ground;
using NeatCrate.App.Jobs;
using NeatCrate.App.Listening;
using NeatCrate.App.LoadingBay;
using NeatCrate.App.Notices;
using NeatCrate.App.Plans;
using NeatCrate.App.Purge;
using NeatCrate.App.Record;
using NeatCrate.App.Relink;
using NeatCrate.App.Scans;
using NeatCrate.App.Sessions;
using NeatCrate.App.SetUp;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Core.Usage;
using NeatCrate.Store;
using Serilog;

namespace NeatCrate.App.Hosting;

/// <summary>The application, put together: what it is made of, and which requests it answers.</summary>
public static class Application
{
    private const string HostLog = "\"Microsoft.Extensions.Hosting.Internal.Host\"";

    /// <summary>Makes the application ready to be started.</summary>
    /// <param name="options">How it is started.</param>
    /// <param name="describing">True for a tool that only wants its description: then the data folder is not opened.</param>
    public static WebApplication Build(AppOptions options, bool describing = false)
    {
        ArgumentNullException.ThrowIfNull(options);
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions { ContentRootPath = AppContext.BaseDirectory, WebRootPath = options.WebRoot });
        builder.WebHost.ConfigureKestrel(k => k.AddServerHeader = false).UseUrls($"http://127.0.0.1:{options.Port}");
        builder.Services.AddSerilog((_, log) =>
        {
            log.MinimumLevel.Information()
                .MinimumLevel.Override("Microsoft", Serilog.Events.LogEventLevel.Warning)
                .MinimumLevel.Override("Serilog.AspNetCore.RequestLoggingMiddleware", Serilog.Events.LogEventLevel.Debug)
                // Why a start cannot work is said in one sentence, below; the host would print where in the code that was found.
                .Filter.ByExcluding(e => e.Exception is { } error && StartProblem.Of(error, options) is not null && e.Properties.GetValueOrDefault("SourceContext")?.ToString() == HostLog)
                .WriteTo.Console(formatProvider: CultureInfo.InvariantCulture, restrictedToMinimumLevel: Serilog.Events.LogEventLevel.Warning, outputTemplate: "{Timestamp:HH:mm:ss} {Level:u3} {Message:lj}{NewLine}{Exception}");
            if (!describing)
            {
                log.WriteTo.File(
                    Path.Combine(options.DataFolder, "logs", "neat-crate-.log"), formatProvider: CultureInfo.InvariantCulture, rollingInterval: RollingInterval.Day,
                    fileSizeLimitBytes: 10_000_000, rollOnFileSizeLimit: true, retainedFileCountLimit: 14);
            }
        });
        builder.Services.ConfigureHttpJsonOptions(json =>
        {
            json.SerializerOptions.Converters.Add(new JsonStringEnumConverter(namingPolicy: null, allowIntegerValues: false));
            // Nothing where something must be is refused at the edge.
            json.SerializerOptions.RespectNullableAnnotations = true;
            json.SerializerOptions.NumberHandling = JsonNumberHandling.Strict;
        });
        builder.Services.Configure<RouteHandlerOptions>(routes => routes.ThrowOnBadRequest = true);
        builder.Services.AddOpenApi();
        builder.Services.AddValidation();
        builder.Services.AddProblemDetails();
        builder.Services.AddResponseCompression(compression =>
        {
            compression.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "application/problem+json", "image/svg+xml"];
            // Brotli at a level that is as quick packs the pages less.
            compression.Providers.Add<GzipCompressionProvider>();
        });
        builder.Services.Configure<GzipCompressionProviderOptions>(gzip => gzip.Level = CompressionLevel.Optimal);
        builder.Services.AddHealthChecks().AddCheck<DatabaseHealth>("database");
        builder.Services.AddExceptionHandler<Problems>();
        // A page must hear within seconds that the server is gone.
        builder.Services.AddSignalR(hub => hub.KeepAliveInterval = TimeSpan.FromMilliseconds(500)).AddJsonProtocol(json => json.PayloadSerializerOptions.Converters.Add(new JsonStringEnumConverter()));
        AddServices(builder.Services, options, describing);

        var app = builder.Build();
        app.UseSerilogRequestLogging(requests => requests.GetLevel = RequestLog.LevelOf);
        app.UseMiddleware<LocalOnly>();
        app.UseExceptionHandler();
        app.UseStatusCodePages();
        app.UseResponseCompression();
        app.UseDefaultFiles();
        app.UseStaticFiles(new StaticFileOptions { OnPrepareResponse = PageCaching.Prepare });
        app.MapHealthChecks("/health");
        app.MapOpenApi();
        MapRequests(app);
        return app;
    }

    private static void AddServices(IServiceCollection services, AppOptions options, bool describing)
    {
        services.AddSingleton(options);
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton(_ => StoreFiles.Open(options.DataFolder));
        services.AddSingleton<PlanJournal>();
        services.AddSingleton<IJournal>(s => s.GetRequiredService<PlanJournal>());
        services.AddSingleton<IDurableFiles, DurableFiles>();
        services.AddSingleton(s => new UseIndex(() => s.GetRequiredService<SessionService>().Using(), () => s.GetRequiredService<ShelfService>().All(), s.GetRequiredService<TimeProvider>(), s.GetRequiredService<UseMemory>()));
        services.AddSingleton<IFileUsers>(s => s.GetRequiredService<UseIndex>());
        services.AddSingleton<IAsker, AskerAtThisMachine>();
        services.AddSingleton<Runner>();
        services.AddSingleton<HeaderCache>();
        services.AddSingleton<DocumentKindChoices>();
        services.AddSingleton(s => new InventoryReader(s.GetRequiredService<HeaderCache>(), s.GetRequiredService<IShelfMemory>(), () => s.GetRequiredService<DocumentKindChoices>().Now));
        services.AddSingleton<StoredSettings>();
        services.AddSingleton<CopyInChoices>();
        services.AddSingleton<Uploads>();
        services.AddSingleton(_ => new ShelfStates());
        services.AddSingleton<ShelfService>();
        services.AddSingleton<FormerRoots>();
        services.AddSingleton<SameDrives>();
        services.AddSingleton<ShelfDrives>();
        services.AddSingleton<KeptSessions>();
        services.AddSingleton<UseMemory>();
        services.AddSingleton<SessionService>();
        services.AddSingleton<SessionFiles>();
        services.AddSingleton<FolderShower>();
        services.AddSingleton<Adoption>();
        services.AddSingleton<SessionsOnShelves>();
        services.AddSingleton<NoticeService>();
        services.AddSingleton<SessionFinder>();
        services.AddSingleton<PlanService>();
        services.AddSingleton<PresetService>();
        services.AddSingleton<RecipientService>();
        services.AddSingleton<PackedSizes>();
        services.AddSingleton<AppliedPlans>();
        services.AddSingleton<PeaksCache>();
        services.AddSingleton<LevelCache>();
        services.AddSingleton<RecordingGuard>();
        services.AddSingleton<MirrorLedger>();
        services.AddSingleton<SessionWatch>();
        services.AddSingleton<RecordService>();
        services.AddSingleton<Catalogue>();
        services.AddSingleton<IShelfMemory>(s => s.GetRequiredService<Catalogue>());
        services.AddSingleton<CatalogueFiles>();
        services.AddSingleton<KeptIdentities>();
        services.AddSingleton<IIdentities>(s => s.GetRequiredService<KeptIdentities>());
        services.AddSingleton<RelinkNotes>();
        services.AddSingleton<IdentitiesAtRest>();
        services.AddSingleton<KeptCopies>();
        services.AddSingleton<HeardCopies>();
        services.AddSingleton<RelinkService>();
        services.AddSingleton<RelinkSearches>();
        services.AddSingleton<PurgeService>();
        services.AddSingleton<KeptContents>();
        services.AddSingleton<KeptBundles>();
        services.AddSingleton<BackupChoices>();
        services.AddSingleton<DocumentPlaces>();
        services.AddSingleton<SecondPlaces>();
        services.AddSingleton<DocumentKeeper>();
        services.AddSingleton<VaultService>();
        services.AddSingleton<VersionService>();
        services.AddSingleton<BackupsUnderWay>();
        services.AddSingleton<BackupService>();
        services.AddSingleton<BackupViewMaker>();
        services.AddSingleton<ManyBackups>();
        services.AddSingleton<ManyPlans>();
        services.AddSingleton<DriveLosses>();
        services.AddSingleton<SaveChanges>();
        services.AddSingleton<SavedWithout>();
        services.AddSingleton<BackupSchedule>();
        services.AddSingleton<BundleWatch>();
        services.AddSingleton<ShelfScans>();
        services.AddSingleton<ShelfViews>();
        services.AddSingleton<ShelfWatch>();
        services.AddSingleton<CopyInByItself>();
        services.AddSingleton<EndedJobs>();
        services.AddSingleton<WorkEngine>();
        services.AddSingleton<PlanJobs>();
        if (!describing)
        {
            // Whoever only describes the application must not open the data folder.
            services.AddHostedService(s => s.GetRequiredService<WorkEngine>());
            services.AddHostedService(s => s.GetRequiredService<SessionWatch>());
            services.AddHostedService(s => s.GetRequiredService<RecordService>());
            services.AddHostedService(s => s.GetRequiredService<ShelfScans>());
            services.AddHostedService(s => s.GetRequiredService<ShelfWatch>());
            services.AddHostedService(s => s.GetRequiredService<CopyInByItself>());
            services.AddHostedService(s => s.GetRequiredService<DocumentKeeper>());
            services.AddHostedService(s => s.GetRequiredService<BackupsUnderWay>());
            services.AddHostedService(s => s.GetRequiredService<BackupSchedule>());
            services.AddHostedService(s => s.GetRequiredService<BundleWatch>());
            services.AddHostedService(s => s.GetRequiredService<IdentitiesAtRest>());
        }
        services.Configure<HostOptions>(h => h.ShutdownTimeout = TimeSpan.FromSeconds(20));
    }

    private static void MapRequests(WebApplication app)
    {
        ShelfEndpoints.Map(app);
        CatalogueEndpoints.Map(app);
        SessionEndpoints.Map(app);
        FileEndpoints.Map(app);
        DocumentKindEndpoints.Map(app);
        PlanEndpoints.Map(app);
        JobEndpoints.Map(app);
        NoticeEndpoints.Map(app);
        SetUpEndpoints.Map(app);
        AdoptEndpoints.Map(app);
        ManyPlansEndpoints.Map(app);
        RecordEndpoints.Map(app);
        TakeLogEndpoints.Map(app);
        ListeningEndpoints.Map(app);
        CopyInEndpoints.Map(app);
        ImportEndpoints.Map(app);
        RelinkEndpoints.Map(app);
        PurgeEndpoints.Map(app);
        TrimEndpoints.Map(app);
        BackupEndpoints.Map(app);
        DriveLossEndpoints.Map(app);
        VersionEndpoints.Map(app);
        BundleEndpoints.Map(app);
        app.MapHub<JobsHub>(JobEndpoints.HubPath);
        app.Map("/api/{**rest}", () => TypedResults.Problem(statusCode: 404, title: "There is nothing at this address.")).ExcludeFromDescription();
        app.MapFallbackToFile("index.html", new StaticFileOptions { OnPrepareResponse = PageCaching.Prepare });
    }
}
