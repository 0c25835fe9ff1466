using NeatCrate.Core.Backups;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Contents;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Tests.Vault;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Contents;

/// <summary>One suite for everything that holds the contents of a session.</summary>
public sealed class ContentContainerTests : IDisposable
{
    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.Zero);

    private readonly SessionFixture _session = new();

    public ContentContainerTests()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 400)).Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), 400, seed: 2)).Save();
        File.WriteAllText(_session.Inside("empty.txt"), "");
        Directory.CreateDirectory(_session.Inside("Notes", "to do"));
    }

    public static TheoryData<string> Kinds => ["vault", "bag", "folder"];

    public void Dispose() => _session.Dispose();

    private string Place(string kind) => kind == "folder" ? Path.Combine(_session.Outbox, "copy") : _session.Outbox;

    /// <summary>Puts the session into a container of its kind.</summary>
    /// <returns>What opens it.</returns>
    private Func<IContentContainer> Put(string kind, IDurableFiles files)
    {
        var inventory = _session.Inventory();
        switch (kind)
        {
            case "vault":
                var store = new FolderStore(Path.Combine(_session.Outbox, VaultNames.FolderName), files);
                var made = new BackupWriter(new BackupVault(store), files, new ContentNotes()).Write(
                    SessionBackup.Request(_session.SessionId, inventory, _session.Shelves, true, Now), null, TestContext.Current.CancellationToken);
                return () => new VaultContainer(new BackupVault(store).Manifest(made.Name!), store.Place);
            case "bag":
                var bundle = BundlePlanner.Plan(new BundleRequest(_session.SessionId, inventory, _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, Now));
                Apply(bundle, files);
                return () => new BagContainer(bundle.Steps[0].Destination, new DurableFiles());
            default:
                var contents = ContentsReader.Read(inventory, _session.Shelves, new ContentsChoice { Outside = true, Repoints = true, ReadFrom = Place(kind) });
                var plan = new Plan { Id = Guid.NewGuid(), Kind = PlanKind.Trim, Sentence = "", WritableRoots = [_session.Outbox], Steps = [.. FolderContainer.Steps(contents, Place(kind), [], _ => "")] };
                Apply(plan, files);
                return () => new FolderContainer(_session.Inventory(Place(kind)), _session.Shelves);
        }
    }

    private static void Apply(Plan plan, IDurableFiles files)
    {
        var result = new MemoryJournal().TryApply(plan, files: files);
        if (result.Outcome != PlanOutcome.Applied)
        {
            Assert.Empty(result.Remains);
            throw new FaultException(result.Cause!);
        }
    }

    private static Dictionary<string, byte[]> BytesOf(SessionContents contents)
    {
        using var reading = new OriginReading(new DurableFiles());
        return contents.Entries.ToDictionary(e => e.Path, e => MemorySink.Read(e.Origin, 1 << 24, reading));
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void WhatGoesInComesOut(string kind)
    {
        var contents = Put(kind, new QuickFiles())().Read();
        var bytes = BytesOf(contents);
        Assert.Equal(File.ReadAllBytes(_session.Inside("Audio", "Cello 01.wav")), bytes["Audio/Cello 01.wav"]);
        Assert.Equal(File.ReadAllBytes(Path.Combine(_session.Card, "tide.wav")), bytes[kind == "vault" ? "Outside media/tide.wav" : "Audio/tide.wav"]);
        Assert.Empty(bytes["empty.txt"]);
        Assert.Contains("Notes/to do", contents.EmptyFolders);
        Assert.Equal([SessionFixture.Name + ".otio"], contents.Entries.Where(e => e.Role == ContentRole.Document).Select(e => e.Path));
        Assert.All(contents.Entries, e => Assert.Equal(bytes[e.Path].Length, e.Bytes));
        Assert.All(contents.Entries.Where(e => e.Sha512 is not null), e => Assert.Equal(ContentHash.Of(bytes[e.Path]), e.Sha512));
        Assert.Equal(kind == "folder", contents.Entries.All(e => e.Sha512 is null));
    }

    /// <summary>A file of the container that is cut, altered, emptied or gone: the origin says so, and gives nothing out as the file.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void WhatIsDamagedIsNeverGivenOut(string kind)
    {
        var open = Put(kind, new QuickFiles());
        var (contents, sound) = (open().Read(), ContentHash.Of(File.ReadAllBytes(_session.Inside("Audio", "Cello 01.wav"))));
        var entry = contents.Entries.Single(e => e.Path == "Audio/Cello 01.wav");
        var file = Directory.GetFiles(_session.Outbox, "*", SearchOption.AllDirectories).Where(f => f == entry.Origin.Source).Single();
        var (bytes, time) = (File.ReadAllBytes(file), File.GetLastWriteTimeUtc(file));
        // A bundle holds more than the one sound: its bytes are met where they stand in it.
        var at = bytes.AsSpan().IndexOf(File.ReadAllBytes(_session.Inside("Audio", "Cello 01.wav")).AsSpan(60, 100)) + 10;
        foreach (var damage in new Action[]
        {
            () => { bytes[at] ^= 1; File.WriteAllBytes(file, bytes); bytes[at] ^= 1; },
            () => File.WriteAllBytes(file, bytes[..(bytes.Length - 30)]),
            () => File.WriteAllBytes(file, []),
            () => File.WriteAllBytes(file, [.. bytes, 0]),
            () => File.Delete(file),
        })
        {
            damage();
            if (kind == "folder" && File.Exists(file))
            {
                // In a folder a file is known by size and time: one that was written over shows by these.
                File.SetLastWriteTimeUtc(file, time.AddSeconds(3));
            }
            else if (File.Exists(file))
            {
                File.SetLastWriteTimeUtc(file, time);
            }
            using var reading = new OriginReading(new DurableFiles());
            try
            {
                Assert.Equal(sound, ContentHash.Of(MemorySink.Read(entry.Origin, 1 << 24, reading)));
                Assert.Fail("It was given out.");
            }
            catch (FaultException e)
            {
                Assert.True(e.Fault.IsOfSource || e.Fault.Code == FaultCode.BackupContentMissing, e.Fault.ToString());
            }
            File.WriteAllBytes(file, bytes);
            File.SetLastWriteTimeUtc(file, time);
        }
    }

    /// <summary>Whatever call is refused while it is made, there is none of it afterwards, or it is whole; and the session is as it was.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void ARefusedCallLeavesNothingHalfMade(string kind)
    {
        var before = DiskTree.Of(_session.Folder);
        for (var refused = 0; ; refused++)
        {
            var (calls, files) = (0, new FaultyFiles());
            files.Before = (call, path) =>
            {
                if (calls++ == refused)
                {
                    throw new FaultException(FaultCode.NoSpace, path);
                }
            };
            Func<IContentContainer>? open = null;
            try
            {
                open = Put(kind, files);
            }
            catch (FaultException e)
            {
                Assert.Equal(FaultCode.NoSpace, e.Fault.Code);
            }
            Assert.Equal(before, DiskTree.Of(_session.Folder));
            if (calls <= refused)
            {
                Assert.True(refused > 10);
                Assert.NotEmpty(BytesOf(open!().Read()));
                return;
            }
            // After the point of no return a refusal only leaves tidying.
            if (open is not null)
            {
                Assert.NotEmpty(BytesOf(open().Read()));
            }
            else if (kind == "vault")
            {
                Assert.All(Directory.EnumerateFiles(_session.Outbox, "*.sha512", SearchOption.AllDirectories), m => BackupManifest.Read(File.ReadAllBytes(m), m));
            }
            else
            {
                Assert.False(Directory.Exists(Path.Combine(_session.Outbox, "copy")));
                Assert.Empty(Directory.GetFiles(_session.Outbox, "*.zip"));
            }
            DiskTree.Clear(_session.Outbox);
        }
    }
}
