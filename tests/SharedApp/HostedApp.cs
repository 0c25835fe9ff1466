using Microsoft.AspNetCore.Builder;
using NeatCrate.App.Hosting;

namespace NeatCrate.Testing;

/// <summary>The application in the process of the tests: the same as in its own, and there at once. It cannot be killed.</summary>
internal sealed class HostedApp : RunningApp
{
    private readonly WebApplication _app;

    private HostedApp(WebApplication app) : base(new Uri(app.Urls.First())) => _app = app;

    /// <summary>Starts the application.</summary>
    /// <param name="data">Its data folder.</param>
    /// <param name="demo">Whether it is the demo's.</param>
    public static HostedApp Start(string data, bool demo = false)
    {
        var app = demo ? Prepared(data) : Prepared(data, "--no-demo");
        app.StartAsync().GetAwaiter().GetResult();
        return new HostedApp(app);
    }

    /// <summary>Makes a data folder with the demo in it.</summary>
    public static void MakeDemo(string data) => ((IDisposable)Prepared(data)).Dispose();

    private static WebApplication Prepared(string data, params string[] more)
    {
        var options = AppOptions.Parse(["--data", data, "--port", "0", "--web", Path.Combine(AppProcess.Repository, "src", "web", "dist"), .. more]);
        var app = Application.Build(options);
        FirstStart.Prepare(app.Services, options);
        return app;
    }

    public override void Dispose()
    {
        base.Dispose();
        _app.StopAsync().GetAwaiter().GetResult();
        ((IDisposable)_app).Dispose();
    }
}
