using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests;

/// <summary>A small session on real disk: its drive, a library, a card, and a drive that is away.</summary>
internal sealed class SessionFixture : IDisposable
{
    public const string Name = "261014 Net Mender";

    private readonly TempFolder _temp = new();

    public SessionFixture()
    {
        Shelves =
        [
            new Shelf(Guid.NewGuid(), "Session drive", ShelfKind.SessionDrive, _temp.Folder("drive")),
            new Shelf(Guid.NewGuid(), "Loft samples", ShelfKind.OwnLibrary, _temp.Folder("library")),
            new Shelf(Guid.NewGuid(), "Field card", ShelfKind.Removable, _temp.Folder("card")),
            new Shelf(Guid.NewGuid(), "Old laptop", ShelfKind.Removable, Path.Combine(_temp.Path, "laptop")),
            new Shelf(Guid.NewGuid(), "Outbox", ShelfKind.Outbox, _temp.Folder("outbox")),
        ];
        Folder = _temp.Folder("drive", Name);
        Document = SessionDocument.Create(SessionId, Name, new SessionSettings(48000, 24, 92, "6/8"), SessionLayout.Default, ["Cello", "Samples"]);
    }

    public Guid SessionId { get; } = Guid.NewGuid();

    public Shelf[] Shelves { get; }

    public string Folder { get; }

    public SessionDocument Document { get; }

    public string DocumentPath => Path.Combine(Folder, Name + ".otio");

    public string Root => _temp.Path;

    public string Drive => Shelves[0].Root;

    public string Library => Shelves[1].Root;

    public string Card => Shelves[2].Root;

    public string Laptop => Shelves[3].Root;

    public string Outbox => Shelves[4].Root;

    public string Inside(params string[] parts) => Path.Combine([Folder, .. parts]);

    /// <summary>Writes a sound file whose samples follow from the seed.</summary>
    public static string Sound(string path, int samples = 4800, int rate = 48000, int seed = 1)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var random = new Random(seed);
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(rate, 1, 24)))
        {
            writer.Write([.. Enumerable.Range(0, samples).Select(_ => random.Next(-8_000_000, 8_000_000))]);
        }
        File.SetLastWriteTimeUtc(path, new DateTime(2026, 10, 14, 20, 0, seed % 60, DateTimeKind.Utc));
        return path;
    }

    public SessionFixture Place(string path, string track = "Samples", long start = 0, long length = 4800, string? url = null)
    {
        ClipBuilder.Place(Document.Root, track, new ClipToPlace(Path.GetFileName(path), url ?? MediaUrl.From(path, Folder), 48000, 4800, start, length));
        return this;
    }

    public SessionFixture List(string path)
    {
        ClipBuilder.List(Document.Root, MediaUrl.From(path, Folder), 4800, 48000);
        return this;
    }

    public void Save(string? path = null)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(path ?? DocumentPath)!);
        File.WriteAllBytes(path ?? DocumentPath, Document.ToUtf8());
    }

    public SessionInventory Inventory(string? folder = null) => new InventoryReader(new HeaderCache()).Read(folder ?? Folder, null, Shelves, TestContext.Current.CancellationToken);

    public Plan PlanCopyIn(IReadOnlySet<string>? chosen = null, bool olderDocuments = true) => CopyInPlanner.Plan(
        new CopyInRequest(SessionId, Inventory(), Shelves, new FreshIdentities()) { Chosen = chosen, OlderDocuments = olderDocuments }, TestContext.Current.CancellationToken);

    public void Dispose() => _temp.Dispose();
}
