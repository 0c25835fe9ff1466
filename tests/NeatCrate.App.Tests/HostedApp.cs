using Microsoft.AspNetCore.Builder;
using NeatCrate.App.Hosting;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>The application in the process of the tests: the same as in its own, and there at once. It cannot be killed.</summary>
internal sealed class HostedApp : RunningApp
{
    private readonly WebApplication _app;

    private HostedApp(WebApplication app) : base(new Uri(app.Urls.First())) => _app = app;

    /// <summary>Starts the application.</summary>
    /// <param name="data">Its data folder.</param>
    public static HostedApp Start(string data)
    {
        var options = AppOptions.Parse(["--no-demo", "--data", data, "--port", "0", "--web", Path.Combine(AppProcess.Repository, "src", "web", "dist")]);
        var app = Application.Build(options);
        FirstStart.Prepare(app.Services, options);
        app.StartAsync().GetAwaiter().GetResult();
        return new HostedApp(app);
    }

    public override void Dispose()
    {
        base.Dispose();
        _app.StopAsync().GetAwaiter().GetResult();
        ((IDisposable)_app).Dispose();
    }
}
