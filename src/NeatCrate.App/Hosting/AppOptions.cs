namespace NeatCrate.App.Hosting;

/// <summary>What the application was started with.</summary>
/// <param name="DataFolder">Absolute path of the folder for the database and the demo.</param>
/// <param name="Port">Port on loopback; 0 for any free one.</param>
/// <param name="Demo">Whether the demo is made at the first start.</param>
/// <param name="WebRoot">Absolute path of the folder that holds the built pages.</param>
public sealed record AppOptions(string DataFolder, int Port, bool Demo, string WebRoot)
{
    /// <summary>Reads the command line: <c>--data DIR</c>, <c>--port N</c>, <c>--no-demo</c>, <c>--web DIR</c>.</summary>
    /// <exception cref="ArgumentException">An option is not known or lacks its value.</exception>
    public static AppOptions Parse(IReadOnlyList<string> args)
    {
        ArgumentNullException.ThrowIfNull(args);
        var options = new AppOptions(Path.GetFullPath("data"), 5180, true, Path.Combine(AppContext.BaseDirectory, "wwwroot"));
        for (var i = 0; i < args.Count; i++)
        {
            options = args[i] switch
            {
                "--data" => options with { DataFolder = Path.GetFullPath(Value(args, ref i)) },
                "--port" => options with { Port = PortNumber(Value(args, ref i)) },
                "--web" => options with { WebRoot = Path.GetFullPath(Value(args, ref i)) },
                "--no-demo" => options with { Demo = false },
                _ => throw new ArgumentException($"There is no option '{args[i]}'. Known are --data DIR, --port N, --no-demo and --web DIR."),
            };
        }
        return options;
    }

    private static string Value(IReadOnlyList<string> args, ref int i) =>
        i + 1 < args.Count ? args[++i] : throw new ArgumentException($"The option '{args[i]}' needs a value.");

    private static int PortNumber(string text) =>
        ushort.TryParse(text, out var port) ? port : throw new ArgumentException($"'{text}' is no port: 0 to 65535 are.");
}
