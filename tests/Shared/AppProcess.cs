using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace NeatCrate.Testing;

/// <summary>The real application in a process of its own, on a free port of loopback.</summary>
internal sealed class AppProcess : RunningApp
{
    private const string ReadyLine = "Neat Crate is ready at ";

    private readonly Process _process;
    private readonly List<string> _output;

    private AppProcess(Process process, List<string> output, Uri address) : base(address)
    {
        (_process, _output) = (process, output);
    }

    /// <summary>The repository's top folder.</summary>
    public static string Repository { get; } = FindRepository();

    /// <summary>Everything that the application printed.</summary>
    public string Output
    {
        get
        {
            lock (_output)
            {
                return string.Join('\n', _output);
            }
        }
    }

    /// <summary>Memory that the process holds at this moment, in bytes.</summary>
    public long Memory
    {
        get
        {
            _process.Refresh();
            return _process.WorkingSet64;
        }
    }

    /// <summary>What the process has had of the processors.</summary>
    public TimeSpan ProcessorTime
    {
        get
        {
            _process.Refresh();
            return _process.TotalProcessorTime;
        }
    }

    /// <summary>Starts the application and waits until it says that it is ready.</summary>
    public static AppProcess Start(string data, params string[] options)
    {
        var (process, output, ready) = Launch(data, options);
        if (!ready.Task.Wait(TimeSpan.FromSeconds(60)) || ready.Task.Result is not { } address)
        {
            process.Kill(entireProcessTree: true);
            lock (output)
            {
                throw new InvalidOperationException("The application did not start:\n" + string.Join('\n', output));
            }
        }
        return new AppProcess(process, output, new Uri(address));
    }

    /// <summary>Starts the application where it must refuse to start; gives its exit code and what it printed.</summary>
    public static (int Code, string Output) StartRefused(string data, params string[] options)
    {
        var (process, output, _) = Launch(data, options);
        using (process)
        {
            process.WaitForExit();
            lock (output)
            {
                return (process.ExitCode, string.Join('\n', output));
            }
        }
    }

    private static (Process Process, List<string> Output, TaskCompletionSource<string?> Ready) Launch(string data, string[] options)
    {
        var configuration = AppContext.BaseDirectory.Contains("/Release/", StringComparison.Ordinal) ? "Release" : "Debug";
        var dll = Path.Combine(Repository, "src", "NeatCrate.App", "bin", configuration, "net10.0", "NeatCrate.App.dll");
        var start = new ProcessStartInfo("dotnet", [dll, "--data", data, "--port", "0", "--web", Path.Combine(Repository, "src", "web", "dist"), .. options])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        // A process that lives for a few requests: what is learnt for the thousandth run of a method costs more than it brings.
        start.Environment["DOTNET_TieredPGO"] = "0";
        var process = new Process { StartInfo = start, EnableRaisingEvents = true };
        var output = new List<string>();
        var ready = new TaskCompletionSource<string?>(TaskCreationOptions.RunContinuationsAsynchronously);
        void Heard(string? line)
        {
            if (line is null)
            {
                return;
            }
            lock (output)
            {
                output.Add(line);
            }
            if (line.StartsWith(ReadyLine, StringComparison.Ordinal))
            {
                ready.TrySetResult(line[ReadyLine.Length..].Trim());
            }
        }
        process.OutputDataReceived += (_, e) => Heard(e.Data);
        process.ErrorDataReceived += (_, e) => Heard(e.Data);
        process.Exited += (_, _) => ready.TrySetResult(null);
        process.Start();
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        return (process, output, ready);
    }

    /// <summary>Ends the process at once, as a power cut does (SIGKILL).</summary>
    public void Kill()
    {
        _process.Kill();
        _process.WaitForExit();
    }

    /// <summary>Asks the process to end, as a service manager does (SIGTERM), and waits for it.</summary>
    public void Terminate()
    {
        Tool.Run("kill", "-TERM", $"{_process.Id}");
        _process.WaitForExit();
    }

    public override void Dispose()
    {
        base.Dispose();
        if (!_process.HasExited)
        {
            Kill();
        }
        _process.Dispose();
    }

    private static string FindRepository()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "NeatCrate.slnx")))
        {
            folder = Path.GetDirectoryName(folder) ?? throw new InvalidOperationException("The tests do not stand in the repository.");
        }
        return folder;
    }
}
