using System.Diagnostics;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace NeatCrate.Testing;

/// <summary>The application, running on a free port of loopback, and what tests ask of it.</summary>
internal abstract class RunningApp : IDisposable
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(90);

    protected RunningApp(Uri address)
    {
        Client = new HttpClient { BaseAddress = address };
        Client.DefaultRequestHeaders.Add("X-Neat-Crate", "1");
    }

    public HttpClient Client { get; }

    public Uri Address => Client.BaseAddress!;

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
        if (response.IsSuccessStatusCode || response.Content.Headers.ContentType?.MediaType != "application/problem+json")
        {
            throw new InvalidOperationException($"{path} was not refused with a problem, but answered {(int)response.StatusCode} as {response.Content.Headers.ContentType}");
        }
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

    public virtual void Dispose() => Client.Dispose();
}
