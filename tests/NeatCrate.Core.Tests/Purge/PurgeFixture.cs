using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Usage;

namespace NeatCrate.Core.Tests.Purge;

/// <summary>A session that is purged, and another one that may point into it.</summary>
internal sealed class PurgeFixture : IDisposable
{
    public static readonly DateTime Now = new(2026, 10, 20, 22, 0, 0, DateTimeKind.Utc);

    public PurgeFixture(SessionFixture? session = null)
    {
        Session = session ?? new SessionFixture();
        OtherFolder = Path.Combine(Session.Drive, "261005 Low Water");
    }

    public SessionFixture Session { get; }

    /// <summary>Folder of the other session; it is known once it is there.</summary>
    public string OtherFolder { get; }

    public PurgeCounting Counting { get; set; } = new();

    /// <summary>Which kept saves play files.</summary>
    public IReadOnlyList<(string Path, DateTime Saved)> KeptSaves { get; set; } = [];

    /// <summary>Absolute paths of the files that a recorder writes.</summary>
    public HashSet<string> Growing { get; } = new(StringComparer.Ordinal);

    public bool LooksForTheSame { get; set; } = true;

    public MemoryJournal Journal { get; } = new();

    private UseIndex Index
    {
        get
        {
            KeptInventory[] sessions = [.. new[] { Session.Folder, OtherFolder }.Where(Directory.Exists).Select(f => new KeptInventory(f, new HeaderCache()))];
            return new UseIndex(() => sessions.Select(s => new UsingSession(s, null)), () => Session.Shelves, TimeProvider.System);
        }
    }

    public string Sound(string relative, int seed, int samples = 4800) => SessionFixture.Sound(Session.Inside(relative.Split('/')), samples, seed: seed);

    public PurgeWorld World()
    {
        var kept = new KeptInventory(Session.Folder, new HeaderCache());
        var inventory = kept.Look(null, Session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken);
        return new PurgeWorld(
            inventory,
            kept.ByDocument(),
            Index.UsesWithin(Session.Folder).ToLookup(u => u.Path),
            TakeFinder.Find(inventory).Where(t => t.Evidence != TakeEvidence.None).ToDictionary(t => t.File.Path, t => t.File.ListedTake ?? new TakeLabel(t.Track, t.Number, t.Pass)),
            kept.Others())
        {
            Same = LooksForTheSame ? SameSounds.Find(inventory, new FreshIdentities(), null, TestContext.Current.CancellationToken) : [],
            Counting = Counting,
            Growing = Growing,
            KeptSaves = KeptSaves.ToLookup(k => k.Path, k => k.Saved, StringComparer.Ordinal),
        };
    }

    public PurgeItem Item(string relative) => PurgeJudge.Judge(World()).Single(i => i.Path == Session.Inside(relative.Split('/')));

    public SetAsideRequest Request(params string[] relative)
    {
        var world = World();
        return new SetAsideRequest(Session.SessionId, world, PurgeJudge.Judge(world), relative.Select(r => Session.Inside(r.Split('/'))).ToHashSet(), Session.Shelves, Now);
    }

    public Plan SetAside(params string[] relative) => SetAsidePlanner.SetAside(Request(relative));

    public Plan PutBack(params string[] held) => HeldPlanner.PutBack(new HeldRequest(Session.SessionId, World().Inventory, held.Length == 0 ? null : held.ToHashSet()));

    public Plan Empty(params string[] held) => HeldPlanner.Empty(
        new HeldRequest(Session.SessionId, World().Inventory, held.Length == 0 ? null : held.ToHashSet()), new FreshIdentities(), (_, _) => false, PlayedBy, TestContext.Current.CancellationToken);

    /// <summary>Which versions play a file, by the path that it had.</summary>
    public Func<string, IEnumerable<string>>? PlayedBy { get; set; }

    /// <summary>Applies a plan that nothing stands in the way of.</summary>
    public void Apply(Plan plan)
    {
        Assert.Empty(plan.Refusals);
        var result = new Runner(Journal, new DurableFiles(), Index).Apply(plan, null, TestContext.Current.CancellationToken);
        Assert.True(result.Outcome == PlanOutcome.Applied, $"{result.Cause} {result.Error}");
    }

    public IReadOnlyList<Fault> Refusals(Plan plan) => new Runner(Journal, new DurableFiles(), Index).Refusals(plan);

    public FileUse UseOf(string relative) => World().Inventory.Files.Single(f => f.Path == Session.Inside(relative.Split('/'))).Use;

    public bool Is(string relative) => File.Exists(Session.Inside(relative.Split('/')));

    /// <summary>Another session whose document places a file of this one.</summary>
    public void Other(string path)
    {
        Directory.CreateDirectory(OtherFolder);
        var document = SessionDocument.Create(Guid.NewGuid(), "Low Water", new SessionSettings(), SessionLayout.Default, ["Voice"]);
        ClipBuilder.Place(document.Root, "Voice", new ClipToPlace("hum", MediaUrl.From(path, OtherFolder), 48000, 4800, 0, 100));
        File.WriteAllBytes(Path.Combine(OtherFolder, "Low Water.otio"), document.ToUtf8());
    }

    public void Dispose() => Session.Dispose();
}
