using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>A session on disk with samples outside, and the application on it.</summary>
internal sealed class LiveSession : IDisposable
{
    public const string Name = "261014 Net Mender";

    // Made once: what brings an empty database up to date, version by version, has tests of its own.
    private static readonly Lazy<byte[]> EmptyDatabase = new(MakeEmptyDatabase);

    private const string DatabaseName = "neat-crate.db";

    private readonly TempFolder _temp = new();

    private bool _inProcessOfItsOwn;

    /// <param name="outsideFiles">How many samples stand outside.</param>
    /// <param name="samplesEach">How long each is, in samples.</param>
    /// <param name="inProcessOfItsOwn">Whether the application runs in a process that can be killed.</param>
    public LiveSession(int outsideFiles, int samplesEach, bool inProcessOfItsOwn = false)
    {
        _inProcessOfItsOwn = inProcessOfItsOwn;
        Drive = _temp.Folder("drive");
        Library = _temp.Folder("library");
        Outbox = _temp.Folder("outbox");
        Folder = _temp.Folder("drive", Name);
        var document = SessionDocument.Create(Guid.NewGuid(), Name, new SessionSettings(), SessionLayout.Default, ["Samples"]);
        var random = new Random(7);
        for (var n = 0; n < outsideFiles; n++)
        {
            var path = Path.Combine(Library, $"sample {n:00}.wav");
            using (var stream = File.Create(path))
            using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24)))
            {
                writer.Write([.. Enumerable.Range(0, samplesEach).Select(_ => random.Next(-8_000_000, 8_000_000))]);
            }
            ClipBuilder.Place(document.Root, "Samples", new ClipToPlace($"{n}", MediaUrl.From(path, Folder), 48000, samplesEach, 0, samplesEach));
        }
        File.WriteAllBytes(Path.Combine(Folder, Name + ".otio"), document.ToUtf8());
        File.WriteAllBytes(Path.Combine(_temp.Folder("data"), DatabaseName), EmptyDatabase.Value);
        Restart();
    }

    public string Drive { get; }

    public string Library { get; }

    public string Outbox { get; }

    public string Folder { get; }

    public string Root => _temp.Path;

    public RunningApp App { get; private set; } = null!;

    /// <summary>The process, where the application has one of its own.</summary>
    public AppProcess Process => (AppProcess)App;

    public string DriveId { get; private set; } = "";

    public string OutboxId { get; private set; } = "";

    public string Id { get; private set; } = "";

    /// <summary>Starts the application, anew after it was killed.</summary>
    public void Restart() => App = _inProcessOfItsOwn ? AppProcess.Start(Path.Combine(_temp.Path, "data"), "--no-demo") : HostedApp.Start(_temp.Folder("data"));

    /// <summary>Starts the application anew in a process of its own, which can be killed.</summary>
    public void MoveToItsOwnProcess()
    {
        App.Dispose();
        _inProcessOfItsOwn = true;
        Restart();
    }

    /// <summary>Makes the shelves and the session known.</summary>
    public async Task<LiveSession> Know(CancellationToken cancel)
    {
        DriveId = await App.AddShelf("Session drive", "SessionDrive", Drive, cancel);
        await App.AddShelf("Loft samples", "OwnLibrary", Library, cancel);
        OutboxId = await App.AddShelf("Outbox", "Outbox", Outbox, cancel);
        Id = await App.Adopt(DriveId, Name, cancel);
        return this;
    }

    public Task<System.Text.Json.Nodes.JsonNode> PlanCopyIn(CancellationToken cancel) =>
        App.Post($"/api/sessions/{Id}/copy-in/plan", null, cancel);

    public Task<System.Text.Json.Nodes.JsonNode> PlanBundle(CancellationToken cancel) => App.Post(
        $"/api/sessions/{Id}/bundles/plan", new { shelfId = OutboxId, path = "", recipient = "Idris Falk", note = "" }, cancel);

    private static byte[] MakeEmptyDatabase()
    {
        using var temp = new TempFolder();
        StoreFiles.Open(temp.Path).Dispose();
        return File.ReadAllBytes(Path.Combine(temp.Path, DatabaseName));
    }

    public void Dispose()
    {
        App.Dispose();
        _temp.Dispose();
    }

    /// <summary>The one sentence that a label says.</summary>
    public static string Sentence(JsonNode label)
    {
        ArgumentNullException.ThrowIfNull(label);
        return string.Concat(label["says"]!.AsArray().Select(p => p!["joint"]!.GetValue<string>() + p["text"]!.GetValue<string>()));
    }
}
