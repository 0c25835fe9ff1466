using System.Diagnostics;

namespace NeatCrate.Testing;

/// <summary>Runs a general-purpose tool from Debian, against which our own work is checked.</summary>
internal static class Tool
{
    /// <summary>Runs a tool that must succeed, and gives what it printed.</summary>
    public static string Run(string tool, params string[] arguments) => RunIn(".", tool, arguments);

    /// <summary>Runs a tool in a folder; it must succeed.</summary>
    public static string RunIn(string folder, string tool, params string[] arguments)
    {
        var (code, output) = Try(folder, tool, arguments);
        return code == 0 ? output : throw new InvalidOperationException($"{tool} {string.Join(' ', arguments)} ended with {code}: {output}");
    }

    /// <summary>Runs a tool in a folder, and gives its exit code with all that it printed.</summary>
    public static (int Code, string Output) Try(string folder, string tool, params string[] arguments)
    {
        var start = new ProcessStartInfo(tool, arguments) { WorkingDirectory = folder, RedirectStandardOutput = true, RedirectStandardError = true };
        start.Environment["LC_ALL"] = "C.UTF-8";
        using var process = Process.Start(start)!;
        var error = process.StandardError.ReadToEndAsync();
        var output = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return (process.ExitCode, output + error.Result);
    }
}
