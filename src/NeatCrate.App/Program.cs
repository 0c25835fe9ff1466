using System.Globalization;
using System.Reflection;
using NeatCrate.App.Ground;
using NeatCrate.App.Hosting;

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

var app = Application.Build(options, describing);
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
