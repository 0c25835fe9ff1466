using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Relink;

public sealed class RelinkPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A plan by which files of the library are taken for lost ones.</summary>
    internal static Plan Plan(SessionFixture session, params (string Lost, string Found, RelinkWay Way)[] choices)
    {
        var inventory = session.Inventory();
        return RelinkPlanner.Plan(
            new RelinkRequest(
                [
                    new RelinkedSession(session.SessionId, inventory,
                    [
                        .. choices.Select(c => new Relinking(
                            LostFile.Of(inventory.Files.Single(f => f.Path == c.Lost), null, inventory), Found(Path.Combine(session.Library, c.Found)), c.Way)),
                    ]),
                ],
                session.Shelves,
                new FreshIdentities()),
            TestContext.Current.CancellationToken);
    }

    private static FoundFile Found(string path)
    {
        var (state, header) = (FileState.Of(path), MediaHeaderReader.ReadFile(path));
        return new FoundFile(
            path, new KnownFile(state.Bytes, state.ModifiedUtc, header?.Container, header?.SampleRate, header?.Channels, header?.BitsPerSample, header?.LengthSamples), NotedIdentities.None, true, false, null);
    }

    private string Lost(string name, int samples = 4800)
    {
        var path = SessionFixture.Sound(Path.Combine(_session.Library, "old", name), samples, seed: name.Length);
        _session.Place(path);
        return path;
    }

    private void Move() => Directory.Move(Path.Combine(_session.Library, "old"), Path.Combine(_session.Library, "new"));

    [Fact]
    public void WhatIsFoundIsCopiedInAndEveryVersionPointsAtTheCopy()
    {
        var drum = Lost("drum.wav");
        _session.Save(_session.Inside("Older documents", "Net Mender 2026-10-13_230000.otio"));
        _session.Save();
        Move();
        var plan = Plan(_session, (drum, "new/drum.wav", RelinkWay.CopyIn));
        Assert.Equal("Relink 1 file; copy in 1, 14 kB; 2 documents re-pointed; originals untouched.", plan.Sentence);
        new MemoryJournal().Apply(plan);
        var file = Assert.Single(_session.Inventory().Files);
        Assert.Equal((_session.Inside("Audio", "drum.wav"), Standing.Inside), (file.Path, file.Standing));
        Assert.Equal(File.ReadAllBytes(Path.Combine(_session.Library, "new", "drum.wav")), File.ReadAllBytes(file.Path));
        Assert.All(_session.Inventory().Documents, d => Assert.All(d.Document!.References, r => Assert.Equal("Audio/drum.wav", r.TargetUrl)));
    }

    /// <summary>What is taken though nothing is certain, and nobody compared it, is named before anything else.</summary>
    [Fact]
    public void WhatNobodyComparedIsNamed()
    {
        var (drum, bell) = (Lost("drum.wav"), Lost("bell.wav"));
        _session.Save();
        Move();
        var inventory = _session.Inventory();
        Relinking Of(string lost, string found, bool isGuess) => new(LostFile.Of(inventory.Files.Single(f => f.Path == lost), null, inventory), Found(Path.Combine(_session.Library, found)), RelinkWay.CopyIn) { IsGuess = isGuess };
        var plan = RelinkPlanner.Plan(
            new RelinkRequest([new RelinkedSession(_session.SessionId, inventory, [Of(drum, "new/drum.wav", false), Of(bell, "new/bell.wav", true)])], _session.Shelves, new FreshIdentities()), TestContext.Current.CancellationToken);
        Assert.Equal((FaultCode.NotCompared, "bell.wav"), (plan.Remarks[0].Code, Assert.Single(plan.Remarks[0].Names)));
        Assert.DoesNotContain(FaultCode.NotCompared, Plan(_session, (drum, "new/drum.wav", RelinkWay.CopyIn)).Remarks.Codes());
    }

    [Fact]
    public void ReferencedInPlaceOrPutBackAsAsked()
    {
        var (drum, bell) = (Lost("drum.wav"), Lost("bell.wav"));
        _session.Save();
        Move();
        var before = File.ReadAllBytes(_session.DocumentPath);
        var back = Plan(_session, (drum, "new/drum.wav", RelinkWay.PutBack));
        Assert.Contains("put back 1, 14 kB; no document is touched", back.Sentence, StringComparison.Ordinal);
        new MemoryJournal().Apply(back);
        Assert.Equal(before, File.ReadAllBytes(_session.DocumentPath));
        Assert.True(File.Exists(drum));

        new MemoryJournal().Apply(Plan(_session, (bell, "new/bell.wav", RelinkWay.Repoint)));
        Assert.Equal(
            [(drum, Standing.Outside), (Path.Combine(_session.Library, "new", "bell.wav"), Standing.Outside)],
            _session.Inventory().Files.OrderByDescending(f => f.Name).Select(f => (f.Path, f.Standing)));
        Assert.False(File.Exists(bell));
    }

    /// <summary>What comes out of a backup must not take the name of another sound, and the plan says under which name it comes.</summary>
    [Fact]
    public void ACopyOutOfABackupGivesWayToTheNameThatIsTakenAndSaysSo()
    {
        var drum = Lost("drum.wav");
        _session.Save();
        SessionFixture.Sound(_session.Inside("Audio", "drum.wav"), 4800, seed: 99);
        var content = Path.Combine(_session.Library, VaultNames.FolderName, VaultNames.Of(ContentHash.Of(File.ReadAllBytes(drum))));
        Directory.CreateDirectory(Path.GetDirectoryName(content)!);
        File.Move(drum, content);
        var (inventory, state) = (_session.Inventory(), FileState.Of(content));
        var lost = LostFile.Of(inventory.Files.Single(f => f.Path == drum), null, inventory);
        var copy = new KeptCopy("the backup of yesterday", content, null, ContentHash.Of(File.ReadAllBytes(content)), state.Bytes, state.ModifiedUtc, null);
        var found = new FoundFile("/vault/backup/drum.wav", KnownFile.Of(state.Bytes, state.ModifiedUtc, null), NotedIdentities.None, true, true, null) { Copy = copy };
        var plan = RelinkPlanner.Plan(
            new RelinkRequest([new RelinkedSession(_session.SessionId, inventory, [new Relinking(lost, found, RelinkWay.CopyIn)])], _session.Shelves, new FreshIdentities()), TestContext.Current.CancellationToken);
        var made = Assert.Single(plan.Steps.OfType<MakeFileStep>());
        Assert.Equal([(FaultCode.ComesInAs, "drum.wav", Path.GetFileName(made.Destination))], plan.Remarks.Select(r => (r.Code, r.Name!, r.Other!)));
        new MemoryJournal().Apply(plan);
        Assert.Equal(File.ReadAllBytes(content), File.ReadAllBytes(made.Destination));
        Assert.NotEqual(File.ReadAllBytes(content), File.ReadAllBytes(_session.Inside("Audio", "drum.wav")));
    }

    /// <summary>A relink by all three ways at once goes back, to the byte, and forth.</summary>
    [Fact]
    public void ARelinkIsUndoneAndRedone()
    {
        var (drum, bell, horn) = (Lost("drum.wav"), Lost("bell.wav"), Lost("foghorn.wav"));
        _session.Save();
        Move();
        var (journal, before) = (new MemoryJournal(), (Session: Tree.Of(_session.Folder), Library: Tree.Of(_session.Library)));
        var plan = Plan(_session, (drum, "new/drum.wav", RelinkWay.CopyIn), (bell, "new/bell.wav", RelinkWay.Repoint), (horn, "new/foghorn.wav", RelinkWay.PutBack));
        journal.Apply(plan);
        var after = (Session: Tree.Of(_session.Folder), Library: Tree.Of(_session.Library));
        for (var n = 0; n < 2; n++)
        {
            var undo = UndoPlanner.Plan(plan, journal.Records(plan));
            journal.Apply(undo);
            Assert.Equal(before.Session, Tree.Of(_session.Folder));
            Assert.Equal(before.Library, Tree.Of(_session.Library));
            Assert.Equal(3, _session.Inventory().Standing(Standing.Missing).Count());
            plan = RedoPlanner.Plan(plan, undo);
            journal.Apply(plan);
            Assert.Equal(after.Session.Keys.Order(), Tree.Of(_session.Folder).Keys.Order());
            Assert.Equal(after.Library.Keys.Order(), Tree.Of(_session.Library).Keys.Order());
            Assert.Empty(_session.Inventory().Standing(Standing.Missing));
        }
    }

    [Theory]
    [InlineData(5000, 0)]
    [InlineData(4800, 10)]
    public void AFileThatIsNotAsItWasJudgedIsRefused(int samples, int laterSeconds)
    {
        var drum = Lost("drum.wav");
        _session.Save();
        Move();
        var path = Path.Combine(_session.Library, "new", "drum.wav");
        var inventory = _session.Inventory();
        var found = Found(path);
        var time = File.GetLastWriteTimeUtc(path);
        SessionFixture.Sound(path, samples: samples, seed: 9);
        File.SetLastWriteTimeUtc(path, time.AddSeconds(laterSeconds));
        var plan = RelinkPlanner.Plan(
            new RelinkRequest(
                [new RelinkedSession(_session.SessionId, inventory, [new Relinking(LostFile.Of(Assert.Single(inventory.Files), null, inventory), found, RelinkWay.CopyIn)])], _session.Shelves, new FreshIdentities()),
            TestContext.Current.CancellationToken);
        Assert.Equal(FaultCode.SourceChanged, Assert.Single(plan.Refusals).Code);
        Assert.Empty(plan.Steps);
        Assert.Equal(drum, Assert.Single(inventory.Files).Path);
    }

    [Fact]
    public void AShorterOneIsSaidToBeShorter()
    {
        var drum = Lost("drum.wav");
        _session.Save();
        Move();
        SessionFixture.Sound(Path.Combine(_session.Library, "new", "drum.wav"), samples: 2400);
        var remark = Assert.Single(Plan(_session, (drum, "new/drum.wav", RelinkWay.CopyIn)).Remarks, r => r.Code == FaultCode.FoundIsShorter);
        Assert.Equal((0.05, 0.1), (remark.Seconds, remark.UntilSeconds));
    }

    [Fact]
    public void AFlacTakesThePlaceOfItsWavAndTheClipKeepsItsRange()
    {
        var drum = Lost("drum.wav");
        _session.Save();
        Move();
        Tool.Run("flac", "--silent", "--delete-input-file", Path.Combine(_session.Library, "new", "drum.wav"));
        var before = SessionDocument.Parse(File.ReadAllBytes(_session.DocumentPath)).References.Select(r => (r.Source, r.AvailableStart, r.AvailableSeconds)).ToList();
        new MemoryJournal().Apply(Plan(_session, (drum, "new/drum.flac", RelinkWay.CopyIn)));
        var file = Assert.Single(_session.Inventory().Files);
        Assert.Equal(("drum.flac", Standing.Inside), (file.Name, file.Standing));
        Assert.Equal(before, SessionDocument.Parse(File.ReadAllBytes(_session.DocumentPath)).References.Select(r => (r.Source, r.AvailableStart, r.AvailableSeconds)));
    }

    [Fact]
    public void WhatCannotBePutBackIsRefusedWithAWayOut()
    {
        _session.Place("gull.wav", url: @"E:\sounds\gull.wav").Save();
        SessionFixture.Sound(Path.Combine(_session.Library, "gull.wav"));
        var plan = Plan(_session, (@"E:\sounds\gull.wav", "gull.wav", RelinkWay.PutBack));
        Assert.Equal(FaultCode.NoPlaceToPutBack, Assert.Single(plan.Refusals).Code);
        Assert.Empty(Plan(_session, (@"E:\sounds\gull.wav", "gull.wav", RelinkWay.CopyIn)).Refusals);
    }
}
