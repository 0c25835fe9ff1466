using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Names;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Tests.Names;

/// <summary>Which file a name in a document of another program means, and which it does not.</summary>
public sealed class NameMeaningTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private SessionInventory Look(string document, params string[] media)
    {
        foreach (var path in media)
        {
            SessionFixture.Sound(_session.Inside(path.Split('/')), seed: path.Length);
        }
        return Look(Encoding.UTF8.GetBytes(document));
    }

    private SessionInventory Look(byte[] document)
    {
        File.WriteAllBytes(_session.Inside("Breakwater.loft"), document);
        return new InventoryReader(new HeaderCache(), null).Read(_session.Folder, null, _session.Shelves);
    }

    private static string[] Told(SessionInventory inventory) => [.. inventory.Files.Select(f => $"{f.Standing} {f.Use} {f.ShownPath}").Order(StringComparer.Ordinal)];

    [Fact]
    public void APathThatLeadsSomewhereMeansThatPlace()
    {
        var card = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"));
        var inventory = Look($"<s f=\"{card}\"/><s f=\"Audio/Cello 01.wav\"/><s f=\"{_session.Inside("Audio", "Voice 01.wav")}\"/>", "Audio/Cello 01.wav", "Audio/Voice 01.wav", "Audio/tide.wav", "Audio/Voice 02.wav");
        Assert.Equal(
            ["Inside Named Audio/Cello 01.wav", "Inside Named Audio/Voice 01.wav", "Inside NamedNowhere Audio/Voice 02.wav", "Inside NamedNowhere Audio/tide.wav", "Outside Named tide.wav"], Told(inventory));
        Assert.Equal((new NamedShare(2, 4), true), (inventory.Named!.Value, inventory.Named.Value.Tells));
        Assert.Equal((2L, 4L), Assert.Single(inventory.Remarks, r => r.Code == FaultCode.NamesFound) is var r ? (r.Count!.Value, r.Number!.Value) : default);
    }

    /// <summary>What is no letter stops nothing, in a document as little as on the disk.</summary>
    [Fact]
    public void ANameThatIsNoTextIsAName()
    {
        var told = Told(Look("<s f=\"Audio/Cello\uFFFE 01.wav\"/><s f=\"Audio/Voice\uFFFE 01.wav\"/><s f=\"Oboe\uFFFE.wav\"/>", "Audio/Cello\uFFFE 01.wav", "Audio/Oboe\uFFFE.wav"));
        Assert.Equal(["Inside Named Audio/Cello\uFFFE 01.wav", "Inside Named Audio/Oboe\uFFFE.wav", "Missing Named Audio/Voice\uFFFE 01.wav"], told);
    }

    /// <summary>A path that could be followed here is missing where it leads nowhere, also beside a file of that name: that is for Relink to ask.</summary>
    [Theory]
    [InlineData("Audio/Cello 01.wav")]
    [InlineData("{session}/Audio/Cello 01.wav")]
    [InlineData("file://{session}/Audio/Cello%2001.wav")]
    public void APathThatLeadsNowhereIsMissing(string path)
    {
        var inventory = Look($"<s f=\"{path.Replace("{session}", _session.Folder, StringComparison.Ordinal)}\"/><s f=\"Audio/Voice.wav\"/>", "Older/Cello 01.wav", "Audio/Voice.wav");
        Assert.Equal(["Inside Named Audio/Voice.wav", "Inside NamedNowhere Older/Cello 01.wav", "Missing Named Audio/Cello 01.wav"], Told(inventory));
    }

    /// <summary>A path on a shelf that is here can be followed: a file in the session that only ends alike is another one.</summary>
    [Fact]
    public void APathOnAShelfThatLeadsNowhereIsMissingThere()
    {
        var told = Told(Look($"<s f=\"{_session.Library}/Audio/Cello 01.wav\"/><s f=\"Audio/Voice.wav\"/>", "Audio/Cello 01.wav", "Audio/Voice.wav"));
        Assert.Equal(["Inside Named Audio/Voice.wav", "Inside NamedNowhere Audio/Cello 01.wav", "Missing Named Audio/Cello 01.wav"], told);
    }

    [Fact]
    public void WhatLiesOnADriveThatIsAwayIsAway()
    {
        var inventory = Look($"<s f=\"{_session.Laptop}/oars/thump.wav\"/><s f=\"Audio/Voice.wav\"/>", "Audio/Voice.wav", "Audio/thump.wav");
        Assert.Equal(["Away Named oars/thump.wav", "Inside Named Audio/Voice.wav", "Inside NamedNowhere Audio/thump.wav"], Told(inventory));
    }

    /// <summary>A path of another machine means the file whose path ends alike, by folder and name; the name alone is not enough.</summary>
    [Theory]
    [InlineData(@"D:\Work\261014 Net Mender\Audio\Cello 01.wav", "Inside Named Audio/Cello 01.wav")]
    [InlineData(@"D:\Work\Another name\Audio\Cello 01.wav", "Inside Named Audio/Cello 01.wav")]
    [InlineData(@"\\loft\work\Audio\Cello 01.wav", "Inside Named Audio/Cello 01.wav")]
    [InlineData("/Users/tove/Audio/Cello 01.wav", "Inside Named Audio/Cello 01.wav")]
    [InlineData("Loft:Audio:Cello 01.wav", "Inside Named Audio/Cello 01.wav")]
    [InlineData(@"E:\Samples\Cello 01.wav", @"Missing Named E:\Samples\Cello 01.wav")]
    [InlineData(@"D:\Work\261014 Net Mender\Old\Cello 01.wav", "Missing Named Old/Cello 01.wav")]
    public void APathOfAnotherMachineMeansTheFileWhosePathEndsAlike(string path, string expected)
    {
        var told = Told(Look($"<s f=\"{path}\"/>", "Audio/Cello 01.wav", "Audio/Drums/Voice.wav"));
        Assert.Contains(expected, told);
        Assert.Equal(expected.StartsWith("Missing", StringComparison.Ordinal) ? 3 : 2, told.Length);
    }

    /// <summary>Where the names of a document lead from one folder of the other machine into the session, another folder there holds another file.</summary>
    [Fact]
    public void AFileOfAnotherFolderOfTheOtherMachineIsAnotherFile()
    {
        var told = Told(Look(
            """<s f="D:\Work\Breakwater\Audio\Cello 01.wav"/><s f="D:\Work\Breakwater\Audio\Cello 02.wav"/><s f="E:\Library\Audio\kick.wav"/>""", "Audio/Cello 01.wav", "Audio/Cello 02.wav", "Audio/kick.wav"));
        Assert.Equal(["Inside Named Audio/Cello 01.wav", "Inside Named Audio/Cello 02.wav", "Inside NamedNowhere Audio/kick.wav", @"Missing Named E:\Library\Audio\kick.wav"], told);
    }

    /// <summary>Of two paths of other machines that end like one file here, the one that agrees less means another file.</summary>
    [Theory]
    [InlineData(@"E:\Library\Audio\kick.wav", "kick.wav")]
    [InlineData(@"E:\Library\Drums\kick.wav", "Drums/kick.wav")]
    public void TwoPathsOfOtherMachinesDoNotMeanOneFile(string other, string inside)
    {
        var own = @"D:\Work\261014 Net Mender\Audio\" + inside.Replace('/', '\\');
        var told = Told(Look($"<s f=\"{other}\"/><s f=\"{own}\"/>", "Audio/" + inside));
        Assert.Equal([$"Inside Named Audio/{inside}", $"Missing Named {other}"], told);
    }

    /// <summary>What is missing of the same folder of the other machine is missing beside those that are here.</summary>
    [Fact]
    public void WhatIsMissingFromTheSameFolderIsExpectedBesideTheOthers()
    {
        var told = Told(Look("""<s f="D:\Work\Tove 7\Audio\Cello 01.wav"/><s f="D:\Work\Tove 7\Audio\Cello 02.wav"/><s f="D:\Work\Tove 7\Audio\Cello 03.wav"/>""", "Audio/Cello 01.wav", "Audio/Cello 02.wav"));
        Assert.Equal(["Inside Named Audio/Cello 01.wav", "Inside Named Audio/Cello 02.wav", "Missing Named Audio/Cello 03.wav"], told);
    }

    [Fact]
    public void ABareNameMeansTheOneFileOfThatNameAndIsOpenWhereSeveralHaveIt()
    {
        var told = Told(Look("<n>kick.wav</n><n>bell.wav</n><n>gone.wav</n>", "Audio/kick.wav", "Audio/Low/bell.wav", "Audio/High/bell.wav", "Audio/tide.wav"));
        // Each of two may be the one: neither is called used or unused.
        Assert.Equal(
            ["Inside Named Audio/kick.wav", "Inside NamedNowhere Audio/tide.wav", "Inside Unknown Audio/High/bell.wav", "Inside Unknown Audio/Low/bell.wav", "Missing Named Audio/gone.wav"], told);
    }

    [Theory]
    [InlineData("<dir>Audio/Low</dir><name>bell.wav</name>")]
    [InlineData("<name>bell.wav</name><dir>Audio/Low</dir>")]
    [InlineData("""{"dir":"Low","name":"bell.wav"}""")]
    [InlineData("dir\0C:\\Work\\Audio\\Low\0bell.wav\0\0")]
    public void TheFolderThatStandsBesideANameDecides(string document) =>
        Assert.Contains("Inside Named Audio/Low/bell.wav", Told(Look(document, "Audio/Low/bell.wav", "Audio/High/bell.wav")));

    /// <summary>What a program shows of a file, its bare name, is no second file.</summary>
    [Fact]
    public void ABareNameBesideAPathIsThatPath()
    {
        var card = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"));
        var inventory = Look($"<s f=\"{card}\" label=\"tide.wav\"/><s f=\"Audio/Voice.wav\"/>", "Audio/Voice.wav", "Audio/tide.wav");
        Assert.Equal(["Inside Named Audio/Voice.wav", "Inside NamedNowhere Audio/tide.wav", "Outside Named tide.wav"], Told(inventory));
        Assert.Equal(2, inventory.Files.Single(f => f.Standing == Standing.Outside).NamedTimes);
    }

    /// <summary>A name that is a part of a longer one is not that name, in a line of text either.</summary>
    [Fact]
    public void ANameWithinALongerOneIsNotThatName()
    {
        var told = Told(Look(
            "take Voice 1.wav\ntake Voice 2.wav\ntake Harbour Bell.wav\n\"My Bell.wav\"\n", "Audio/Voice 1.wav", "Audio/Voice 2.wav", "Audio/Bell.wav", "Audio/1.wav"));
        Assert.Equal(
            ["Inside Named Audio/Voice 1.wav", "Inside Named Audio/Voice 2.wav", "Inside NamedNowhere Audio/1.wav", "Inside NamedNowhere Audio/Bell.wav", "Missing Named Audio/Harbour Bell.wav",
                "Missing Named Audio/My Bell.wav"], told);
    }

    /// <summary>The end of an old name behind a shorter one that was written over it names nothing.</summary>
    [Fact]
    public void WhatIsLeftOfALongerNameIsNotMissing()
    {
        static byte[] Field(string now, string before)
        {
            var field = new byte[128];
            Encoding.UTF8.GetBytes(before, field);
            Encoding.UTF8.GetBytes(now + "\0", field);
            return field;
        }
        SessionFixture.Sound(_session.Inside("Audio", "a.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "b.wav"), seed: 2);
        Assert.Equal(["Inside Named Audio/a.wav", "Inside Named Audio/b.wav"], Told(Look([1, 2, 0, .. Field("Audio/a.wav", "Audio/Voice of the day before.wav"), .. Field("Audio/b.wav", "")])));
    }

    /// <summary>What stands only in a part that is called undo or redo may be named, and leads nowhere where nothing is; what stands elsewhere too is named.</summary>
    [Theory]
    [InlineData("<p><c f=\"Audio/a.wav\"/><UndoHistory at='>'><s><c f=\"Audio/b.wav\"/><c f=\"Audio/gone.wav\"/><c f=\"Audio/a.wav\"/></s></UndoHistory><c f=\"Audio/c.wav\"/></p>", "a c", "b")]
    [InlineData("<p><undo/><undo_stack><undo_stack/><undo_stack><c f=\"Audio/b.wav\"/></undo_stack><c f=\"Audio/gone.wav\"/></undo_stack><c f=\"Audio/a.wav\"/><c f=\"Audio/c.wav\"/></p>", "a c", "b")]
    [InlineData("{\"clips\":[\"Audio/a.wav\"],\"undo\" : {\"x\":\"}]\\\"\",\"l\":[[\"Audio/b.wav\"],\"Audio/gone.wav\"]},\"more\":\"Audio/c.wav\"}", "a c", "b")]
    [InlineData("{\"a\":\"Audio/a.wav\",\"redoList\":[\"Audio/c.wav\"],\"projectUndo\":[\"Audio/b.wav\"]}", "a", "b c")]
    // No part: another value, another word, all of the document, one that never ends, a name of a file.
    [InlineData("{\"undo\":true,\"a\":[\"Audio/a.wav\",\"Audio/b.wav\",\"Audio/c.wav\"]}", "a b c", "")]
    [InlineData("<p><undone><c f=\"Audio/a.wav\"/></undone><torpedo><c f=\"Audio/b.wav\"/></torpedo><redouble><c f=\"Audio/c.wav\"/></redouble></p>", "a b c", "")]
    [InlineData("<?xml version='1.0'?><!-- <x> --><undo><c f=\"Audio/a.wav\"/><c f=\"Audio/b.wav\"/><c f=\"Audio/c.wav\"/></undo>", "a b c", "")]
    [InlineData("<p><undo><c f=\"Audio/a.wav\"/><c f=\"Audio/b.wav\"/><c f=\"Audio/c.wav\"/></p>", "a b c", "")]
    [InlineData("<p undo=\"Audio/a.wav\"><c f=\"Audio/b.wav\" redo='1'/><c f=\"Audio/c.wav\"/></p>", "a b c", "")]
    public void WhatWasUndoneMayBeNamed(string document, string named, string open)
    {
        var inventory = Look(document, "Audio/a.wav", "Audio/b.wav", "Audio/c.wav");
        string Told(FileUse use) => string.Join(' ', inventory.Files.Where(f => f.Use == use).Select(f => Path.GetFileNameWithoutExtension(f.Path)).Order(StringComparer.Ordinal));
        Assert.Equal((named, open, ""), (Told(FileUse.Named), Told(FileUse.Unknown), Told(FileUse.NamedNowhere)));
        Assert.DoesNotContain(inventory.Files, f => f.Standing == Standing.Missing);
    }

    /// <summary>A table of names that end with a zero each is no left-over, though one of them is missing.</summary>
    [Fact]
    public void ATableOfNamesIsNoLeftOver() =>
        Assert.Contains("Missing Named Audio/gone.wav", Told(Look("\u0001\0Audio/a.wav\0Audio/gone.wav\0Audio/b.wav\0\0", "Audio/a.wav", "Audio/b.wav")));

    [Theory]
    [InlineData("see http://halfmoon.example/take.mp3")]
    [InlineData("*.wav;*.aif")]
    [InlineData("\"%s.wav\" \"take {0}.wav\" \".wav\"")]
    [InlineData("Cello.wav.bak Cello.wave2 Cello.wav_old Cello.wav/more")]
    public void WhatIsNoNameOfAFileNamesNothing(string document) => Assert.Empty(NameFinder.Find(Encoding.UTF8.GetBytes(document), TestContext.Current.CancellationToken).Names);

    /// <summary>A document that names hardly any of the files says nothing of the others.</summary>
    [Fact]
    public void WhereHardlyAnythingIsNamedNothingIsKnown()
    {
        var inventory = Look("<s f=\"Audio/Voice 1.wav\"/>", [.. Enumerable.Range(1, 11).Select(n => $"Audio/Voice {n}.wav")]);
        Assert.Equal(10, inventory.Files.Count(f => f.Use == FileUse.Unknown));
        Assert.Contains(inventory.Remarks, r => r.Code == FaultCode.TooFewNamesFound);
        Assert.Equal(Attention.Unreadable, SessionStatus.Of(inventory).Attention);
    }

    /// <summary>A file that comes to stand where a path leads is meant from then on, and not the one in the session that ended alike until then.</summary>
    [Fact]
    public void WhatComesToStandElsewhereIsMeantFromThenOn()
    {
        var elsewhere = Path.Combine(_session.Root, "guest", "Audio", "Cello 01.wav");
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        File.WriteAllText(_session.Inside("Breakwater.loft"), $"<s f=\"{elsewhere}\"/>");
        var inventory = new KeptInventory(_session.Folder, new HeaderCache());
        SessionInventory Now(int second) => inventory.Look(null, _session.Shelves, LookDepth.Files, new DateTime(2026, 11, 10, 12, 0, second, DateTimeKind.Utc), TestContext.Current.CancellationToken);
        Assert.Equal(["Inside Named Audio/Cello 01.wav"], Told(Now(0)));
        SessionFixture.Sound(elsewhere, seed: 2);
        Assert.Equal(["Inside Unknown Audio/Cello 01.wav", $"Outside Named {elsewhere}"], Told(Now(10)));
        File.Delete(elsewhere);
        // Its folder is there: it can be followed, and leads nowhere.
        Assert.Equal(["Inside Unknown Audio/Cello 01.wav", $"Missing Named {elsewhere}"], Told(Now(20)));
    }

    /// <summary>A session of which everything stands outside has nothing to be named in its folder, and is in no other trouble for that.</summary>
    [Fact]
    public void WhereNoMediaStandInTheFolderNothingIsUnknown()
    {
        var card = SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"));
        var inventory = Look($"<s f=\"{card}\"/>");
        Assert.True(inventory.Named!.Value.Tells);
        Assert.Equal(Attention.AtRisk, SessionStatus.Of(inventory).Attention);
    }

    /// <summary>Logs and lists that mention every file, and were written after it, are no documents; a second document and an auto-save are.</summary>
    [Fact]
    public void LogsAndListsAreNoDocuments()
    {
        string[] media = ["Audio/Voice 1.wav", "Audio/Voice 2.wav", "Audio/Voice 3.wav"];
        File.WriteAllText(_session.Inside("printed"), string.Join('\n', media));
        File.WriteAllText(_session.Inside("session.history"), string.Concat(media.Select((m, n) => $"2026-11-10 21:0{n}:00 wrote {m}\n")));
        File.WriteAllText(_session.Inside("Voice 1.wav.marks"), "Voice 1.wav");
        File.WriteAllText(_session.Inside("packing-slip.json"), "{\"format\": \"neat-crate packing slip 1\", \"files\": [\"Audio/Voice 1.wav\", \"Audio/Voice 2.wav\", \"Audio/Voice 3.wav\"]}");
        var inventory = Look("<s f=\"Audio/Voice 1.wav\"/>", media);
        File.SetLastWriteTimeUtc(_session.Inside("Breakwater.loft"), new DateTime(2026, 11, 1, 0, 0, 0, DateTimeKind.Utc));
        inventory = new InventoryReader(new HeaderCache(), null).Read(_session.Folder, null, _session.Shelves, TestContext.Current.CancellationToken);
        Assert.Equal(["Breakwater.loft"], inventory.Documents.Select(d => Path.GetFileName(d.Path)));
        Assert.Equal(["Inside Named Audio/Voice 1.wav", "Inside NamedNowhere Audio/Voice 2.wav", "Inside NamedNowhere Audio/Voice 3.wav"], Told(inventory));
        File.WriteAllText(_session.Inside("Breakwater autosave.loft"), "<s f=\"Audio/Voice 2.wav\"/>");
        File.WriteAllText(_session.Inside("Breakwater.mix"), "<s f=\"Audio/Voice 3.wav\"/>");
        File.SetLastWriteTimeUtc(_session.Inside("Breakwater autosave.loft"), new DateTime(2026, 10, 1, 0, 0, 0, DateTimeKind.Utc));
        inventory = new InventoryReader(new HeaderCache(), null).Read(_session.Folder, null, _session.Shelves, TestContext.Current.CancellationToken);
        Assert.Equal(["Inside Named Audio/Voice 1.wav", "Inside Named Audio/Voice 3.wav", "Inside OlderOnly Audio/Voice 2.wav"], Told(inventory));
        Assert.Equal("Breakwater.mix", Path.GetFileName(inventory.Current!.Path));
    }

    /// <summary>Lines that begin with a word of their own are a document, though each ends in a name; one line of text is no list.</summary>
    [Theory]
    [InlineData("take Voice 1.wav\ntake Voice 2.wav\ntake Voice 3.wav\n")]
    [InlineData("points at Audio/Voice 1.wav\n")]
    public void LinesThatSayMoreThanANameAreADocument(string document) =>
        Assert.Contains("Inside Named Audio/Voice 1.wav", Told(Look(document, "Audio/Voice 1.wav", "Audio/Voice 2.wav", "Audio/Voice 3.wav")));

    /// <summary>What another program saved beside the own document is no newer version of that.</summary>
    [Fact]
    public void AnotherProgramsSaveIsNoNewerVersion()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Voice 1.wav"))).Save();
        File.WriteAllText(_session.Inside("Desk.preset"), "<s f=\"Audio/Voice 1.wav\"/>");
        var inventory = Look(string.Concat(Enumerable.Range(1, 9).Select(n => $"<s f=\"Audio/Voice {n}.wav\"/>")));
        Assert.Equal(_session.DocumentPath, inventory.Current!.Path);
        Assert.DoesNotContain(inventory.Remarks, r => r.Code == FaultCode.NewerDocumentBeside);
    }

    /// <summary>Nothing beside a document of another program may be called unused, and nothing there may be set aside.</summary>
    [Fact]
    public void BesideSuchADocumentTheUseOfEveryFileStaysOpen()
    {
        var inventory = Look("<s f=\"Audio/Voice 1.wav\"/>", "Audio/Voice 1.wav", "Audio/Voice 2.wav");
        Assert.All(inventory.Files, f => Assert.True(inventory.IsUseUnknown(f.Path)));
        Assert.Null(inventory.Document);
        Assert.Equal(("Breakwater.loft", FaultCode.DocumentOfAnotherProgram), (Path.GetFileName(inventory.Current!.Path), inventory.Current.Problem!.Code));
        Assert.DoesNotContain(inventory.Remarks, r => r.Code is FaultCode.DocumentCannotBeOpened or FaultCode.NoDocument or FaultCode.MayBeDocuments);
        Assert.Equal("Everything that is named is inside, nothing is missing; 1 of 2 files is named.", SessionStatus.Of(inventory).Sentence);
    }
}
