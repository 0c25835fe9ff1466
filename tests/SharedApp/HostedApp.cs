using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using NeatCrate.App.Ground;
using NeatCrate.App.Hosting;

namespace NeatCrate.Testing;

/// <summary>The application in the process of the tests: the same as in its own, and there at once. It cannot be killed.</summary>
internal sealed class HostedApp : RunningApp
{
    private readonly string _data;
    private readonly bool _demo;
    private WebApplication? _app;

    private HostedApp(string data, bool demo, WebApplication app) : base(new Uri(app.Urls.First())) => (_data, _demo, _app) = (data, demo, app);

    /// <summary>Starts the application.</summary>
    /// <param name="data">Its data folder.</param>
    /// <param name="demo">Whether it is the demo's.</param>
    public static HostedApp Start(string data, bool demo = false)
    {
        var app = Started(data, demo, 0);
        return new HostedApp(data, demo, app);
    }

    /// <summary>A part of the application, for what no request asks for.</summary>
    public T Service<T>() where T : notnull => _app!.Services.GetRequiredService<T>();

    /// <summary>Ends it, as when somebody ends the program.</summary>
    public void Stop()
    {
        if (_app is { } app)
        {
            _app = null;
            app.StopAsync().GetAwaiter().GetResult();
            ((IDisposable)app).Dispose();
        }
    }

    /// <summary>Starts it again, at the same address.</summary>
    public void StartAgain() => _app = Started(_data, _demo, Address.Port);

    private static WebApplication Started(string data, bool demo, int port)
    {
        var app = demo ? Prepared(data, port) : Prepared(data, port, "--no-demo");
        app.StartAsync().GetAwaiter().GetResult();
        return app;
    }

    /// <summary>Makes a data folder with the demo in it.</summary>
    public static void MakeDemo(string data) => ((IDisposable)Prepared(data, 0)).Dispose();

    private static WebApplication Prepared(string data, int port, params string[] more)
    {
        var options = AppOptions.Parse(["--data", data, "--port", port.ToString(System.Globalization.CultureInfo.InvariantCulture), "--web", Path.Combine(AppProcess.Repository, "src", "web", "dist"), .. more]);
        var app = Application.Build(options);
        FirstStart.Prepare(app.Services, options);
        return app;
    }

    public override void Dispose()
    {
        base.Dispose();
        Stop();
    }
}
