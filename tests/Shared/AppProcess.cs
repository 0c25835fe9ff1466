using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace NeatCrate.Testing;

/// <summary>The real application in a process of its own, on a free port of loopback.</summary>
internal sealed class AppProcess : IDisposable
{
    private const string ReadyLine = "Neat Crate is ready at ";

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(90);

    private readonly Process _process;
    private readonly List<string> _output;

    private AppProcess(Process process, List<string> output, Uri address)
    {
        (_process, _output) = (process, output);
        Client = new HttpClient { BaseAddress = address };
        Client.DefaultRequestHeaders.Add("X-Neat-Crate", "1");
    }

    /// <summary>The repository's top folder.</summary>
    public static string Repository { get; } = FindRepository();

    public HttpClient Client { get; }

    public Uri Address => Client.BaseAddress!;

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

    public async Task<JsonNode> Get(string path, CancellationToken cancel) => (await Client.GetFromJsonAsync<JsonNode>(path, cancel))!;

    /// <summary>Sends a request that must succeed.</summary>
    public async Task<JsonNode> Post(string path, object? body, CancellationToken cancel)
    {
        using var response = await Client.PostAsJsonAsync(path, body, cancel);
        var text = await response.Content.ReadAsStringAsync(cancel);
        return response.IsSuccessStatusCode
            ? JsonNode.Parse(text.Length == 0 ? "{}" : text)!
            : throw new InvalidOperationException($"{path} answered {(int)response.StatusCode}: {text}");
    }

    /// <summary>Sends a request that must be refused; gives the status and the problem.</summary>
    public async Task<(int Status, JsonNode Problem)> PostRefused(string path, object? body, CancellationToken cancel)
    {
        using var response = await Client.PostAsJsonAsync(path, body, cancel);
        Assert.False(response.IsSuccessStatusCode, $"{path} was not refused");
        Assert.Equal("application/problem+json", response.Content.Headers.ContentType?.MediaType);
        return ((int)response.StatusCode, JsonNode.Parse(await response.Content.ReadAsStringAsync(cancel))!);
    }

    /// <summary>Applies a plan and waits until its job is over; gives the job.</summary>
    public async Task<JsonNode> Apply(JsonNode plan, CancellationToken cancel)
    {
        var job = await Post($"/api/plans/{plan["id"]}/apply", null, cancel);
        return await JobOver(job, cancel);
    }

    public Task<JsonNode> JobOver(JsonNode job, CancellationToken cancel) =>
        Until($"/api/jobs/{job["id"]}", j => j["state"]!.GetValue<string>() is not ("Queued" or "Running" or "Held"), cancel);

    /// <summary>Asks again and again until the answer is as it should be.</summary>
    /// <exception cref="TimeoutException">It never was.</exception>
    public async Task<JsonNode> Until(string path, Func<JsonNode, bool> holds, CancellationToken cancel)
    {
        var patience = Stopwatch.StartNew();
        while (true)
        {
            var answer = await Get(path, cancel);
            if (holds(answer))
            {
                return answer;
            }
            if (patience.Elapsed > Patience)
            {
                throw new TimeoutException($"{path} still answers {answer.ToJsonString()}");
            }
            await Task.Delay(20, cancel);
        }
    }

    /// <summary>Makes a folder known as a shelf; gives its identity.</summary>
    public async Task<string> AddShelf(string name, string kind, string path, CancellationToken cancel) =>
        (await Post("/api/shelves", new { name, kind, path }, cancel))["id"]!.GetValue<string>();

    /// <summary>Scans a shelf, and waits until that is done; gives the scan.</summary>
    public async Task<JsonNode> Scan(string shelfId, CancellationToken cancel)
    {
        // One that began before, and may have passed by already what is asked about, is over first.
        await ScansOver(cancel);
        await Post($"/api/shelves/{shelfId}/scan", null, cancel);
        return (await ScansOver(cancel)).AsArray().Single(s => s!["shelfId"]!.GetValue<string>() == shelfId)!;
    }

    /// <summary>Waits until nothing is scanned; gives the last scans.</summary>
    public Task<JsonNode> ScansOver(CancellationToken cancel) => Until(
        "/api/shelves/scans", scans => scans.AsArray().All(s => s!["state"]!.GetValue<string>() is "Done" or "Failed" or "Cancelled"), cancel);

    public async Task<string> Adopt(string shelfId, string path, CancellationToken cancel) =>
        (await Post("/api/adopt", new { shelfId, path }, cancel))["id"]!.GetValue<string>();

    public void Dispose()
    {
        Client.Dispose();
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
