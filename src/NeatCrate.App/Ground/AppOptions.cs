namespace NeatCrate.App.Ground;

/// <summary>What the application was started with.</summary>
/// <param name="DataFolder">Absolute path of the folder for the database and the demo.</param>
/// <param name="Port">Port on loopback; 0 for any free one.</param>
/// <param name="Demo">Whether the demo is made at the first start.</param>
/// <param name="WebRoot">Absolute path of the folder that holds the built pages.</param>
/// <param name="HistoryDays">So many days the history keeps all that an undo needs; after that only what was done.</param>
public sealed record AppOptions(string DataFolder, int Port, bool Demo, string WebRoot, int HistoryDays)
{
    private const int MostHistoryDays = 36_500;

    /// <summary>Reads the command line: <c>--data DIR</c>, <c>--port N</c>, <c>--no-demo</c>, <c>--web DIR</c>, <c>--history-days N</c>.</summary>
    /// <exception cref="ArgumentException">An option is not known, lacks its value, or has one that makes no sense.</exception>
    public static AppOptions Parse(IReadOnlyList<string> args)
    {
        ArgumentNullException.ThrowIfNull(args);
        var options = new AppOptions(Path.GetFullPath("data"), 5180, true, Path.Combine(AppContext.BaseDirectory, "wwwroot"), 365);
        for (var i = 0; i < args.Count; i++)
        {
            options = args[i] switch
            {
                "--data" => options with { DataFolder = Folder(Value(args, ref i)) },
                "--port" => options with { Port = PortNumber(Value(args, ref i)) },
                "--web" => options with { WebRoot = Folder(Value(args, ref i)) },
                "--history-days" => options with { HistoryDays = Days(Value(args, ref i)) },
                "--no-demo" => options with { Demo = false },
                _ => throw new ArgumentException($"There is no option '{args[i]}'. Known are --data DIR, --port N, --no-demo, --history-days N and --web DIR."),
            };
        }
        return options;
    }

    private static string Value(IReadOnlyList<string> args, ref int i) =>
        i + 1 < args.Count ? args[++i] : throw new ArgumentException($"The option '{args[i]}' needs a value.");

    private static string Folder(string text) =>
        text.Length > 0 && !text.Contains('\0', StringComparison.Ordinal) ? Path.GetFullPath(text) : throw new ArgumentException("A folder's name is missing.");

    private static int Days(string text) =>
        int.TryParse(text, out var days) && days is >= 1 and <= MostHistoryDays ? days : throw new ArgumentException($"'{text}' is no number of days: 1 to {MostHistoryDays} are.");

    private static int PortNumber(string text) =>
        ushort.TryParse(text, out var port) ? port : throw new ArgumentException($"'{text}' is no port: 0 to 65535 are.");
}
