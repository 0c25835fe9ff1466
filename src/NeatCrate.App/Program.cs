using System.Globalization;
using System.Reflection;
using System.Text.Json.Serialization;
using Microsoft.AspNetCore.ResponseCompression;
using NeatCrate.App.Bundles;
using NeatCrate.App.CopyIn;
using NeatCrate.App.Hosting;
using NeatCrate.App.Jobs;
using NeatCrate.App.Listening;
using NeatCrate.App.Notices;
using NeatCrate.App.Plans;
using NeatCrate.App.Record;
using NeatCrate.App.Sessions;
using NeatCrate.App.SetUp;
using NeatCrate.App.Shelves;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;
using Serilog;

CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;

// The tool that writes the OpenAPI document starts the application without meaning to use it.
var describing = Assembly.GetEntryAssembly()?.GetName().Name == "GetDocument.Insider";
AppOptions options;
try
{
    options = AppOptions.Parse(describing ? [] : args);
}
catch (ArgumentException e)
{
    await Console.Error.WriteLineAsync(e.Message);
    return 2;
}

const string HostLog = "\"Microsoft.Extensions.Hosting.Internal.Host\"";
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
builder.Services.AddResponseCompression(compression => compression.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "application/problem+json", "image/svg+xml"]);
builder.Services.AddHealthChecks().AddCheck<DatabaseHealth>("database");
builder.Services.AddExceptionHandler<Problems>();
builder.Services.AddSignalR().AddJsonProtocol(json => json.PayloadSerializerOptions.Converters.Add(new JsonStringEnumConverter()));
builder.Services.AddSingleton(options);
builder.Services.AddSingleton(TimeProvider.System);
builder.Services.AddSingleton(_ => StoreFiles.Open(options.DataFolder));
builder.Services.AddSingleton<PlanJournal>();
builder.Services.AddSingleton<IJournal>(s => s.GetRequiredService<PlanJournal>());
builder.Services.AddSingleton<IDurableFiles, DurableFiles>();
builder.Services.AddSingleton<IFileUsers, DocumentUsers>();
builder.Services.AddSingleton<Runner>();
builder.Services.AddSingleton<HeaderCache>();
builder.Services.AddSingleton<InventoryTaker>();
builder.Services.AddSingleton<RememberedChoices>();
builder.Services.AddSingleton<CopyInChoices>();
builder.Services.AddSingleton<Uploads>();
builder.Services.AddSingleton(_ => new ShelfStates());
builder.Services.AddSingleton<ShelfService>();
builder.Services.AddSingleton<KeptSessions>();
builder.Services.AddSingleton<SessionService>();
builder.Services.AddSingleton<NoticeService>();
builder.Services.AddSingleton<SessionFinder>();
builder.Services.AddSingleton<PlanService>();
builder.Services.AddSingleton<PresetService>();
builder.Services.AddSingleton<AppliedPlans>();
builder.Services.AddSingleton<PeaksCache>();
builder.Services.AddSingleton<RecordingGuard>();
builder.Services.AddSingleton<MirrorLedger>();
builder.Services.AddSingleton<SessionWatch>();
builder.Services.AddSingleton<RecordService>();
builder.Services.AddSingleton<Catalogue>();
builder.Services.AddSingleton<IShelfMemory>(s => s.GetRequiredService<Catalogue>());
builder.Services.AddSingleton<CatalogueFiles>();
builder.Services.AddSingleton<IIdentities, KeptIdentities>();
builder.Services.AddSingleton<ShelfScans>();
builder.Services.AddSingleton<ShelfViews>();
builder.Services.AddSingleton<ShelfWatch>();
builder.Services.AddSingleton<CopyInByItself>();
builder.Services.AddSingleton<JobRunner>();
if (!describing)
{
    // Whoever only describes the application must not open the data folder.
    builder.Services.AddHostedService(s => s.GetRequiredService<JobRunner>());
    builder.Services.AddHostedService(s => s.GetRequiredService<SessionWatch>());
    builder.Services.AddHostedService(s => s.GetRequiredService<RecordService>());
    builder.Services.AddHostedService(s => s.GetRequiredService<ShelfScans>());
    builder.Services.AddHostedService(s => s.GetRequiredService<ShelfWatch>());
    builder.Services.AddHostedService(s => s.GetRequiredService<CopyInByItself>());
}
builder.Services.Configure<HostOptions>(h => h.ShutdownTimeout = TimeSpan.FromSeconds(20));

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
ShelfEndpoints.Map(app);
CatalogueEndpoints.Map(app);
SessionEndpoints.Map(app);
PlanEndpoints.Map(app);
JobEndpoints.Map(app);
NoticeEndpoints.Map(app);
SetUpEndpoints.Map(app);
AdoptEndpoints.Map(app);
RecordEndpoints.Map(app);
ListeningEndpoints.Map(app);
CopyInEndpoints.Map(app);
ImportEndpoints.Map(app);
BundleEndpoints.Map(app);
app.MapHub<JobsHub>(JobEndpoints.HubPath);
app.Map("/api/{**rest}", () => TypedResults.Problem(statusCode: 404, title: "There is nothing at this address.")).ExcludeFromDescription();
app.MapFallbackToFile("index.html", new StaticFileOptions { OnPrepareResponse = PageCaching.Prepare });

if (describing)
{
    await app.RunAsync();
    return 0;
}
try
{
    FirstStart.Prepare(app.Services, options);
    await app.StartAsync();
}
catch (Exception e) when (StartProblem.Of(e, options) is not null)
{
    await Console.Error.WriteLineAsync(StartProblem.Of(e, options));
    return 3;
}
// Scripts and tests wait for this line.
await Console.Out.WriteLineAsync($"Neat Crate is ready at {app.Urls.First()}");
await app.WaitForShutdownAsync();
return 0;

/// <summary>The application's entry point, named so that tests can start it.</summary>
public partial class Program;
