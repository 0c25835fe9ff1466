using System.Diagnostics;
using NeatCrate.Core.Documents;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>
/// The real process is killed (SIGKILL) at random instants of every kind of work and of its undo, and started again. After each
/// start the session must be as before or as after, nothing in between, and nothing outside may have been touched.
/// </summary>
public abstract class KillTests
{
    protected static CancellationToken Cancel => TestContext.Current.CancellationToken;

    private protected static async Task<TimeSpan> Timed(LiveSession session, System.Text.Json.Nodes.JsonNode plan)
    {
        var watch = Stopwatch.StartNew();
        Assert.Equal("Done", (await session.App.Apply(plan, Cancel))["state"]!.GetValue<string>());
        return watch.Elapsed;
    }

    private protected static async Task KillWithin(LiveSession session, System.Text.Json.Nodes.JsonNode plan, TimeSpan whole, Random random)
    {
        await session.App.Post($"/api/plans/{plan["id"]}/apply", null, Cancel);
        // A random instant of the work, not a wait for anything.
        var until = Stopwatch.GetTimestamp() + (long)(random.NextDouble() * whole.TotalSeconds * Stopwatch.Frequency);
        SpinWait.SpinUntil(() => Stopwatch.GetTimestamp() >= until);
        session.Process.Kill();
        session.App.Dispose();
        session.Restart();
    }

    private protected static async Task<int> DismissNotices(LiveSession session)
    {
        var notices = (await session.App.Get("/api/notices", Cancel)).AsArray();
        foreach (var notice in notices)
        {
            using var response = await session.App.Client.DeleteAsync($"/api/notices/{notice!["id"]}", Cancel);
            Assert.True(response.IsSuccessStatusCode);
        }
        return notices.Count;
    }

    /// <summary>
    /// Kills the work, and where it went through its undo, over and over. Whatever the last kill left is where the next
    /// begins: the plan where all is as before, its undo where all is as after.
    /// </summary>
    /// <param name="session">The session.</param>
    /// <param name="makePlan">Makes the plan.</param>
    /// <param name="look">What is on the disk, which must be as before or as after.</param>
    /// <param name="kills">How many times at least.</param>
    /// <param name="seed">Of the instants.</param>
    private protected static async Task KillOverAndOver(LiveSession session, Func<Task<System.Text.Json.Nodes.JsonNode>> makePlan, Func<SortedDictionary<string, string>> look, int kills, int seed)
    {
        var library = Tree.Of(session.Library);
        var before = look();
        var plan = await makePlan();
        var whole = await Timed(session, plan);
        var after = look();
        Assert.NotEqual(before, after);

        var random = new Random(seed);
        var (stayed, went, told) = (0, 0, 0);
        // Where the work is quick, most kills miss it: then it goes on until some have hit.
        for (var n = 0; n < kills || ((told == 0 || stayed == 0) && n < 4 * kills); n++)
        {
            var isDone = look().SequenceEqual(after);
            var next = isDone ? await session.App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel) : plan = await makePlan();
            await KillWithin(session, next, whole, random);
            var now = look();
            Assert.True(now.SequenceEqual(before) || now.SequenceEqual(after), $"Kill {n} left it in between: {string.Join(", ", now.Keys)}");
            var stays = now.SequenceEqual(isDone ? after : before);
            (stayed, went) = stays ? (stayed + 1, went) : (stayed, went + 1);
            Assert.Equal(library, Tree.Of(session.Library));
            // What is known is what is there: no session is forgotten, and none is a ghost.
            Assert.Equal(
                Directory.GetDirectories(session.Drive).Where(d => Directory.GetFiles(d, "*.otio").Length > 0).Select(Path.GetFileName).Order(StringComparer.Ordinal),
                (await session.App.Get("/api/sessions", Cancel)).AsArray().Select(s => s!["name"]!.GetValue<string>()).Order(StringComparer.Ordinal));
            told += await DismissNotices(session);
        }
        Assert.True(stayed > 0, $"No kill fell into the work ({went} after it): it is too fast for them.");
        Assert.True(told > 0, "The user was told of no plan that was cut off.");
    }

    /// <summary>Everything in a folder by its bytes. A document that was put back has a new time, so times do not count here.</summary>
    private protected static SortedDictionary<string, string> Contents(string folder)
    {
        var tree = Tree.Of(folder);
        foreach (var (path, state) in tree.ToList())
        {
            tree[path] = state.LastIndexOf(' ') is > 0 and var at ? state[..at] : state;
        }
        return tree;
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class CopyInKillTests : KillTests
{
    [Fact]
    public async Task KilledInCopyInOrUndoTheSessionIsAsBeforeOrAsAfter()
    {
        using var session = new LiveSession(12, 150_000, inProcessOfItsOwn: true);
        await session.Know(Cancel);
        await KillOverAndOver(session, () => session.PlanCopyIn(Cancel), () => Contents(session.Drive), kills: 16, seed: 1);
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class ImportKillTests : KillTests
{
    [Fact]
    public async Task KilledInImportOrUndoTheSessionIsAsBeforeOrAsAfter()
    {
        using var session = new LiveSession(8, 150_000, inProcessOfItsOwn: true);
        await session.Know(Cancel);
        var library = (await session.App.Get("/api/shelves", Cancel)).AsArray().Single(s => s!["name"]!.GetValue<string>() == "Loft samples")!["id"]!.GetValue<string>();
        await session.App.Scan(library, Cancel);
        var found = (await session.App.Get($"/api/catalogue?shelfId={library}", Cancel))["files"]!.AsArray().Select(f => f!["id"]!.GetValue<long>()).ToArray();
        Task<System.Text.Json.Nodes.JsonNode> Plan() => session.App.Post(
            $"/api/sessions/{session.Id}/import/plan", new { catalogueIds = found, uploadIds = Array.Empty<Guid>(), byReference = false, convert = false, track = "Samples", atSeconds = 60 }, Cancel);
        await KillOverAndOver(session, Plan, () => Contents(session.Drive), kills: 8, seed: 3);
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class SetUpKillTests : KillTests
{
    [Fact]
    public async Task KilledInSetUpOrUndoTheNewSessionIsThereAndKnownOrNeither()
    {
        using var session = new LiveSession(1, 4_800, inProcessOfItsOwn: true);
        await session.Know(Cancel);
        var preset = (await session.App.Get("/api/set-up/presets", Cancel))[0]!.AsObject();
        preset["nameParts"]!.AsArray()[1]!["text"] = "Low Water";
        preset["shelfId"] = session.DriveId;
        preset["parentPath"] = "";
        async Task<System.Text.Json.Nodes.JsonNode> Plan() => (await session.App.Post("/api/set-up/plan", preset, Cancel))["plan"]!;
        // Each new document has an identity of its own, so it is the same when it stands whole under the same name.
        SortedDictionary<string, string> Look()
        {
            var tree = Contents(session.Drive);
            foreach (var document in tree.Keys.Where(k => k.EndsWith("Low Water.otio", StringComparison.Ordinal)).ToList())
            {
                tree[document] = Core.Documents.SessionDocument.ReadFile(Path.Combine(session.Drive, document)).Name;
            }
            return tree;
        }
        await KillOverAndOver(session, Plan, Look, kills: 10, seed: 4);
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class SeparateKillTests : KillTests
{
    [Fact]
    public async Task KilledInTakingSessionsApartOrUndoTheyAreTogetherOrApart()
    {
        using var session = new LiveSession(1, 4_800, inProcessOfItsOwn: true);
        const int Songs = 6;
        Directory.CreateDirectory(Path.Combine(session.Folder, "Audio"));
        for (var n = 0; n < Songs; n++)
        {
            var media = Path.Combine(session.Folder, "Audio", $"water {n}.wav");
            File.Copy(Path.Combine(session.Library, "sample 00.wav"), media);
            var document = Core.Documents.SessionDocument.Create(Guid.NewGuid(), $"26100{n} Low Water {n}", new Core.Sessions.SessionSettings(), Core.Sessions.SessionLayout.Default, ["Voice"]);
            Core.Documents.ClipBuilder.Place(document.Root, "Voice", new Core.Documents.ClipToPlace("water", Core.Documents.MediaUrl.From(media, session.Folder), 48000, 4_800, 0, 4_800));
            File.WriteAllBytes(Path.Combine(session.Folder, $"26100{n} Low Water {(char)('A' + n)}.otio"), document.ToUtf8());
        }
        await session.Know(Cancel);
        await KillOverAndOver(
            session, () => session.App.Post("/api/adopt/separate/plan", new { shelfId = session.DriveId, path = "261014 Net Mender" }, Cancel), () => Contents(session.Drive), kills: 8, seed: 5);
    }
}

/// <inheritdoc cref="KillTests"/>
public sealed class BundleKillTests : KillTests
{
    private const int Kills = 14;

    [Fact]
    public async Task KilledInPackingOrUndoTheOutboxHoldsAWholeBundleOrNone()
    {
        using var session = new LiveSession(12, 150_000, inProcessOfItsOwn: true);
        await session.Know(Cancel);
        var (library, drive) = (Tree.Of(session.Library), Tree.Of(session.Drive));
        var plan = await session.PlanBundle(Cancel);
        var whole = await Timed(session, plan);
        var random = new Random(2);
        var (stayed, went, undone) = (0, 0, 0);
        for (var n = 0; n < Kills || ((undone == 0 || stayed == 0) && n < 4 * Kills); n++)
        {
            var isPacked = Directory.GetFiles(session.Outbox).Length > 0;
            await KillWithin(session, isPacked ? await session.App.Post($"/api/plans/{plan["id"]}/undo", null, Cancel) : plan = await session.PlanBundle(Cancel), whole, random);
            var bundles = Directory.GetFileSystemEntries(session.Outbox);
            if (bundles.Length > 0)
            {
                Assert.EndsWith(".zip", Assert.Single(bundles), StringComparison.Ordinal);
                Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundles[0]), StringComparison.Ordinal);
            }
            (stayed, went) = isPacked == bundles.Length > 0 ? (stayed + 1, went) : (stayed, went + 1);
            undone += isPacked && bundles.Length == 0 ? 1 : 0;
            Assert.Equal(library, Tree.Of(session.Library));
            Assert.Equal(drive, Tree.Of(session.Drive));
        }
        Assert.True(stayed > 0, $"No kill fell into the work ({went} after it).");
        Assert.True(undone >= 1, "No undo went through.");
    }
}

/// <summary>A full backup is killed in the middle.</summary>
public sealed class BackupKillTests : KillTests
{
    /// <summary>It is told at the next start, once, with what was said of it; the next one is whole, and one that was over is not told of.</summary>
    [Fact]
    public async Task ABackupThatWasCutOffIsToldOf()
    {
        using var session = new LiveSession(2, 48_000);
        session.MoveToItsOwnProcess();
        await session.Know(Cancel);
        var vault = await session.App.AddShelf("Vault", "Vault", Directory.CreateDirectory(Path.Combine(session.Root, "vault")).FullName, Cancel);
        var backups = $"/api/sessions/{session.Id}/backups";
        var over = await session.App.JobOver(await session.App.Post($"{backups}/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel);
        Assert.Equal("Done", over["state"]!.GetValue<string>());
        using (var take = File.Create(Path.Combine(Directory.CreateDirectory(Path.Combine(session.Folder, "Audio")).FullName, "long take.wav")))
        {
            take.SetLength(400_000_000);
        }
        await session.App.Post($"{backups}/full", new { vaultId = vault, note = "before the mix", byContent = false }, Cancel);
        await session.App.Until("/api/jobs", j => j.AsArray().Any(n => n!["work"]!.GetValue<string>() == "Backup" && n["state"]!.GetValue<string>() == "Running" && n["bytesDone"]!.GetValue<long>() > 0), Cancel);
        session.Process.Kill();
        session.App.Dispose();
        session.Restart();
        var told = Assert.Single((await session.App.Get("/api/notices", Cancel)).AsArray())!;
        Assert.Equal(session.Id, told["sessionId"]!.GetValue<string>());
        Assert.Matches(@"^The full backup of '261014 Net Mender' into 'Vault' of \d{4}-\d\d-\d\d \d\d:\d\d was cut off, and does not count\. Earlier ones are not touched by it\. Back up again\. Its note was: before the mix$", told["text"]!.GetValue<string>());
        Assert.Equal(1, await DismissNotices(session));
        Assert.Equal("Done", (await session.App.JobOver(await session.App.Post($"{backups}/full", new { vaultId = vault, note = "", byContent = false }, Cancel), Cancel))["state"]!.GetValue<string>());
        session.App.Dispose();
        session.Restart();
        Assert.Empty((await session.App.Get("/api/notices", Cancel)).AsArray());

        // One that was whole a moment before all ended is in the vault's list, and is not said to be cut off, whatever is remembered of it.
        await session.App.JobOver(await session.App.Post($"{backups}/full", new { vaultId = vault, note = "the mix", byContent = false }, Cancel), Cancel);
        session.App.Dispose();
        void Remember(string note)
        {
            using var db = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={Path.Combine(session.Root, "data", "neat-crate.db")};Pooling=False");
            db.Open();
            using var command = db.CreateCommand();
            command.CommandText = $"INSERT INTO Settings (Key, Value) VALUES ('backup under way {Guid.NewGuid()}', json_object('Session', '{session.Id}', 'Vault', 'Vault', 'Note', '{note}', 'At', '{DateTimeOffset.Now.AddMinutes(-1):O}'))";
            command.ExecuteNonQuery();
        }
        Remember("the mix");
        Remember("another one");
        session.Restart();
        Assert.EndsWith("Its note was: another one", Assert.Single((await session.App.Get("/api/notices", Cancel)).AsArray())!["text"]!.GetValue<string>(), StringComparison.Ordinal);
    }
}
