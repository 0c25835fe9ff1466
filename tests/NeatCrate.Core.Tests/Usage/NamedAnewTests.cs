using System.IO.Compression;
using System.Text;
using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Names;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Core.Usage;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Usage;

/// <summary>A new version of another program's document, which names files where they stand then, and is the old one in everything else.</summary>
public sealed class NamedAnewTests : IDisposable
{
    private const string Extension = ".loft";
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private string Document => _session.Inside("Breakwater" + Extension);

    private string Tide => Path.Combine(_session.Card, "R & D", "tide 4.wav");

    private string Place => _session.Inside("Audio", "tide & 'ebb' ä.wav");

    private NamedAnew? Anew(byte[] document, string? from = null, string? place = null)
    {
        SessionFixture.Sound(Tide);
        SessionFixture.Sound(_session.Inside("Audio", "Voice 01.wav"), seed: 2);
        File.WriteAllBytes(Document, document);
        var inventory = _session.Inventory();
        return NamedAnew.Of(inventory.Current!, inventory, _session.Shelves, new Dictionary<string, string> { [from ?? Tide] = place ?? Place });
    }

    private NamedAnew? Anew(string document, string? from = null, string? place = null) => Anew(Encoding.UTF8.GetBytes(Filled(document)), from, place);

    private string Filled(string document) => document.Replace("{card}", _session.Card, StringComparison.Ordinal).Replace("{session}", _session.Folder, StringComparison.Ordinal);

    /// <summary>What is written in its place is written as the name was: as XML, JSON, a URL, in a section of characters, or as it is.</summary>
    [Theory]
    [InlineData("<s><f n=\"{card}/R &amp; D/tide 4.wav\"/>  <f n=\"Audio/Voice 01.wav\"/></s>", "<s><f n=\"{session}/Audio/tide &amp; &apos;ebb&apos; ä.wav\"/>  <f n=\"Audio/Voice 01.wav\"/></s>")]
    [InlineData("<s>\r\n<f>{card}/R &amp; D/tide 4.wav</f><f>Audio/Voice 01.wav</f></s>\n", "<s>\r\n<f>{session}/Audio/tide &amp; &apos;ebb&apos; ä.wav</f><f>Audio/Voice 01.wav</f></s>\n")]
    [InlineData("<s><f><![CDATA[{card}/R & D/tide 4.wav]]></f><f>Audio/Voice 01.wav</f></s>", "<s><f><![CDATA[{session}/Audio/tide & 'ebb' ä.wav]]></f><f>Audio/Voice 01.wav</f></s>")]
    [InlineData("<s><f n=\"file://{card}/R%20&amp;%20D/tide%204.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>", "<s><f n=\"file://{sessionUrl}/Audio/tide%20&amp;%20&apos;ebb&apos;%20%C3%A4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>")]
    [InlineData("<s><f n='file://{card}/R%20%26%20D/tide%204.wav'/><f n=\"Audio/Voice 01.wav\"/></s>", "<s><f n='file://{sessionUrl}/Audio/tide%20%26%20%27ebb%27%20%C3%A4.wav'/><f n=\"Audio/Voice 01.wav\"/></s>")]
    [InlineData("{\"a\":\"{card}/R & D/tide 4.wav\",\"b\":[\"Audio/Voice 01.wav\", 1.0]}", "{\"a\":\"{session}/Audio/tide & 'ebb' ä.wav\",\"b\":[\"Audio/Voice 01.wav\", 1.0]}")]
    [InlineData("FILE \"{card}/R & D/tide 4.wav\" 3\nFILE \"Audio/Voice 01.wav\" 1\n", "FILE \"{session}/Audio/tide & 'ebb' ä.wav\" 3\nFILE \"Audio/Voice 01.wav\" 1\n")]
    public void WhatIsWrittenInItsPlaceIsWrittenAsTheNameWas(string document, string expected)
    {
        var anew = Anew(document)!;
        Assert.Equal(Filled(expected).Replace("{sessionUrl}", _session.Folder.Replace(" ", "%20", StringComparison.Ordinal), StringComparison.Ordinal), Encoding.UTF8.GetString(anew.After));
        Assert.Equal(1, Assert.Single(anew.Names).Times);
    }

    /// <summary>The name itself shows nothing of how it is escaped: the form of the text says it, in a section of characters otherwise than elsewhere.</summary>
    [Fact]
    public void TheFormOfTheTextSaysHowASignIsEscaped()
    {
        var anew = Anew("<s><f n=\"Audio/tide 4.wav\"/><f><![CDATA[Audio/tide 4.wav]]></f></s>", _session.Inside("Audio", "tide 4.wav"), _session.Inside("Audio", "R & D.wav"))!;
        Assert.Equal("<s><f n=\"Audio/R &amp; D.wav\"/><f><![CDATA[Audio/R & D.wav]]></f></s>", Encoding.UTF8.GetString(anew.After));
    }

    /// <summary>Nothing tells how a text of no known form escapes what it has not escaped so far.</summary>
    [Theory]
    [InlineData("FILE \"{card}/R & D/tide 4.wav\"\n", "tide \\ 5.wav")]
    [InlineData("FILE \"Audio/tide 4.wav\"\n", "tide & 5.wav")]
    [InlineData("FILE \"Audio/tide 4.wav\"\n", "tide \" 5.wav")]
    public void NothingTellsHowATextOfNoKnownFormEscapes(string document, string name) => Assert.Equal(
        FaultCode.NameCannotBeWritten,
        Assert.Throws<FaultException>(() => Anew(document, document.Contains("Audio", StringComparison.Ordinal) ? _session.Inside("Audio", "tide 4.wav") : Tide, _session.Inside("Audio", name))).Fault.Code);

    /// <summary>Another machine's way to the session folder is known by what it names in it.</summary>
    [Theory]
    [InlineData(@"<s f=""E:\Loft\tide 4.wav""/><s f=""D:\Work\Net\Audio\Voice 01.wav""/>", @"D:\Work\Net\Audio\tide 5.wav", @"E:\Loft\tide 4.wav")]
    [InlineData(@"<s f=""/Users/tove/Loft/tide 4.wav""/><s f=""/Users/tove/Net/Audio/Voice 01.wav""/>", "/Users/tove/Net/Audio/tide 5.wav", "/Users/tove/Loft/tide 4.wav")]
    [InlineData(@"<s f=""Loft:tide 4.wav""/><s f=""Disk:Net:Audio:Voice 01.wav""/>", "Disk:Net:Audio:tide 5.wav", "Loft:tide 4.wav")]
    [InlineData(@"<s f=""file:///E:/Loft/tide%204.wav""/><s f=""file:///D:/Work/Net/Audio/Voice%2001.wav""/>", "file:///D:/Work/Net/Audio/tide%205.wav", "file:///E:/Loft/tide 4.wav")]
    public void AnotherMachinesWayToTheSessionIsKnownByWhatItNames(string document, string written, string was)
    {
        var anew = Anew(document, from: was, place: _session.Inside("Audio", "tide 5.wav"))!;
        Assert.Contains($"\"{written}\"", Encoding.UTF8.GetString(anew.After), StringComparison.Ordinal);
        Assert.Equal(was, Assert.Single(anew.Names).Was);
    }

    /// <summary>Where nothing in a document tells how its machine would write a place, nothing is written.</summary>
    [Theory]
    [InlineData(@"<s f=""E:\Loft\tide 4.wav""/><s f=""Audio/Voice 01.wav""/>", @"E:\Loft\tide 4.wav", "Audio/tide 5.wav")]
    [InlineData(@"<s f=""E:\Loft\tide 4.wav""/><s f=""file:///D:/Net/Audio/Voice%2001.wav""/>", @"E:\Loft\tide 4.wav", "Audio/tide 5.wav")]
    [InlineData(@"<s f=""/Users/tove/Loft/tide 4.wav""/><s f=""file:///Users/tove/Net/Audio/Voice%2001.wav""/>", "/Users/tove/Loft/tide 4.wav", "Audio/tide 5.wav")]
    [InlineData(@"<s f=""tide 4.wav""/><s f=""Audio/Voice 01.wav""/>", "{session}/Audio/tide 4.wav", "Bounces/tide 4.wav")]
    [InlineData(@"<s f=""Audio/tide 4.wav""/><s f=""Audio/Voice 01.wav""/>", "{session}/Audio/tide 4.wav", "{card}/R & D/tide 4.wav")]
    [InlineData(@"<s f=""D:\Net\Audio\tide 4.wav""/><s f=""D:\Net\Audio\Voice 01.wav""/>", "{session}/Audio/tide 4.wav", @"Audio/tide\4.wav")]
    public void WhereNothingTellsHowThePlaceIsWrittenNothingIs(string document, string from, string place) =>
        Assert.Equal(FaultCode.NameLeadsElsewhere, Assert.Throws<FaultException>(() => Anew(document, Filled(from), Path.Combine(_session.Folder, Filled(place)))).Fault.Code);

    [Theory]
    [InlineData("<s f=\"./Audio/tide 4.wav\"/><s f=\"Audio/Voice 01.wav\"/>", "./Audio/tide 5.wav")]
    [InlineData(@"<s f="".\Audio\tide 4.wav""/><s f=""Audio\Voice 01.wav""/>", @".\Audio\tide 5.wav")]
    [InlineData("<s f=\":Audio:tide 4.wav\"/><s f=\":Audio:Voice 01.wav\"/>", ":Audio:tide 5.wav")]
    [InlineData("<s f=\"tide 4.wav\"/><s f=\"Audio/Voice 01.wav\"/>", "tide 5.wav")]
    public void ARelativeNameStaysRelative(string document, string written)
    {
        var anew = Anew(document, _session.Inside("Audio", "tide 4.wav"), _session.Inside("Audio", "tide 5.wav"))!;
        Assert.Contains($"\"{written}\"", Encoding.UTF8.GetString(anew.After), StringComparison.Ordinal);
    }

    /// <summary>What a program shows of a path goes with it; a longer name that ends alike is another one, and stays.</summary>
    [Fact]
    public void TheNameBesideAPathGoesWithItAndALongerOneStays()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Old tide 4.wav"), seed: 4);
        var anew = Anew(
            "<s><c label=\"tide 4.wav\" f=\"{card}/R &amp; D/tide 4.wav\"/><c f=\"Audio/Old tide 4.wav\"/><c f=\"{card}/R &amp; D/tide 4.wav\"/></s>", place: _session.Inside("Audio", "tide 5.wav"))!;
        Assert.Equal(
            Filled("<s><c label=\"tide 5.wav\" f=\"{session}/Audio/tide 5.wav\"/><c f=\"Audio/Old tide 4.wav\"/><c f=\"{session}/Audio/tide 5.wav\"/></s>"), Encoding.UTF8.GetString(anew.After));
    }

    [Fact]
    public void ADocumentInGzipIsWrittenInGzipBehindItsOwnHeader()
    {
        var text = $"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>";
        byte[] packed = [.. (byte[])[0x1F, 0x8B, 8, 8, 1, 2, 3, 4, 0, 3], .. "song\0"u8, .. Gzip(text)[10..]];
        var anew = Anew(packed, place: _session.Inside("Audio", "tide 5.wav"))!;
        Assert.Equal(packed[..15], anew.After[..15]);
        // Read with the system's own gzip, as anybody would.
        var path = Path.Combine(_session.Root, "read.gz");
        File.WriteAllBytes(path, anew.After);
        Assert.Equal(text.Replace($"{_session.Card}/R &amp; D/tide 4.wav", $"{_session.Folder}/Audio/tide 5.wav", StringComparison.Ordinal), Tool.Run("gzip", "-dc", path));
    }

    /// <summary>A header that is longer than what is looked at first, and one that says to be, stop nothing (RFC 1952, section 2.3.1.1).</summary>
    [Theory]
    [InlineData(65_535)]
    [InlineData(40_000)]
    public void AVeryLongHeaderStopsNothing(int extra)
    {
        byte[] header = [0x1F, 0x8B, 8, 4, 1, 2, 3, 4, 0, 3, (byte)extra, (byte)(extra >> 8)];
        byte[] packed = [.. header, .. new byte[extra], .. Gzip($"\"{_session.Card}/R & D/tide 4.wav\" \"Audio/Voice 01.wav\"")[10..]];
        Assert.Equal(packed[..(12 + extra)], Anew(packed, place: _session.Inside("Audio", "tide 5.wav"))!.After[..(12 + extra)]);
        Assert.Empty(NameFinder.Find([.. header, .. new byte[20]], TestContext.Current.CancellationToken).Names);
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Utf16StaysUtf16(bool isBig)
    {
        var encoding = new UnicodeEncoding(isBig, true);
        byte[] document = [.. encoding.GetPreamble(), .. encoding.GetBytes($"<s f=\"{_session.Card}/R &amp; D/tide 4.wav\"/>")];
        byte[] expected = [.. encoding.GetPreamble(), .. encoding.GetBytes($"<s f=\"{_session.Folder}/Audio/tide ä.wav\"/>")];
        Assert.Equal(expected, Anew(document, place: _session.Inside("Audio", "tide ä.wav"))!.After);
    }

    /// <summary>Bytes that are no text are never written, nor is what is only partly understood.</summary>
    [Fact]
    public void WhatIsNotTextIsNotWritten()
    {
        byte[] name = [.. Encoding.UTF8.GetBytes($"\"{Tide}\"")];
        byte[][] documents =
        [
            [.. "head\0\0\u0001"u8, .. name, .. "\0\0"u8],
            [.. Gzip(Encoding.UTF8.GetString(name)), .. Gzip("\"Audio/Voice 01.wav\"")],
            [.. Gzip(Encoding.UTF8.GetString(name)), 0, 0],
            Gzip("head\0\0" + Encoding.UTF8.GetString(name)),
            Encoding.Unicode.GetBytes($"\"{Tide}\""),
        ];
        Assert.All(documents, d => Assert.Equal(FaultCode.DocumentIsNotText, Assert.Throws<FaultException>(() => Anew(d)).Fault.Code));
    }

    /// <summary>In an old encoding, or one that XML declares, only plain letters can be written.</summary>
    [Fact]
    public void OtherLettersAreNotWrittenWhereNobodyKnowsHow()
    {
        byte[][] documents =
        [
            [.. Encoding.Latin1.GetBytes($"<s t=\"Fähre\" f=\"{_session.Card}/R &amp; D/tide 4.wav\"/>")],
            [.. Encoding.ASCII.GetBytes($"<?xml version=\"1.0\" encoding=\"windows-1252\"?><s f=\"{_session.Card}/R &amp; D/tide 4.wav\"/>")],
        ];
        Assert.All(documents, d =>
        {
            Assert.Equal(FaultCode.NameCannotBeWritten, Assert.Throws<FaultException>(() => Anew(d)).Fault.Code);
            Assert.Equal(d.Length - $"{_session.Card}/R &amp; D/tide 4.wav".Length + $"{_session.Folder}/Audio/tide 5.wav".Length, Anew(d, place: _session.Inside("Audio", "tide 5.wav"))!.After.Length);
        });
    }

    /// <summary>A length that stands before a name would be wrong from then on.</summary>
    [Theory]
    [InlineData("s:15:\"Audio/tidä.wav\";")]
    [InlineData("14:Audio/tidä.wav,")]
    public void ANameWhoseLengthIsStatedIsNotWritten(string document) => Assert.Equal(
        FaultCode.NameStatesItsLength, Assert.Throws<FaultException>(() => Anew(document, _session.Inside("Audio", "tidä.wav"), _session.Inside("Audio", "tide 5.wav"))).Fault.Code);

    /// <summary>A bare name that several files have is open, and what is open is not changed.</summary>
    [Fact]
    public void WhatIsOpenIsNotChanged()
    {
        SessionFixture.Sound(_session.Inside("Audio", "tide 4.wav"), seed: 5);
        SessionFixture.Sound(_session.Inside("Older", "tide 4.wav"), seed: 6);
        Assert.Equal(
            FaultCode.NameIsOpen,
            Assert.Throws<FaultException>(() => Anew("<s f=\"tide 4.wav\"/><s f=\"Audio/Voice 01.wav\"/>", _session.Inside("Older", "tide 4.wav"), _session.Inside("Audio", "tide 5.wav"))).Fault.Code);
    }

    /// <summary>A name for which another one of the document would stand then is not written: the two could not be told apart any more.</summary>
    [Fact]
    public void WhatWouldNotBeReadAsItShouldIsNotWritten()
    {
        SessionFixture.Sound(_session.Inside("Older", "tide 5.wav"), seed: 6);
        Assert.Equal(
            FaultCode.NamesWouldDiffer,
            Assert.Throws<FaultException>(() => Anew("<s f=\"tide 4.wav\"/><s f=\"Audio/Voice 01.wav\"/>", _session.Inside("Audio", "tide 4.wav"), _session.Inside("Audio", "tide 5.wav"))).Fault.Code);
    }

    /// <summary>What stands elsewhere in the document and only looks like the name, or would break its form, ends it.</summary>
    [Theory]
    [InlineData("<s f=\"{card}/R &amp; D/tide 4.wav\" old=\"{card}/R &amp; D/tide 4.wavelet\"/>", "tide 5.wav")]
    [InlineData("<s><f><![CDATA[{card}/R & D/tide 4.wav]]></f></s>", "tide ]]> 5.wav")]
    [InlineData("<s f=\"{card}/R &amp; D/tide 4.wav\"/>", "tide \uFFFE 5.wav")]
    public void WhatIsNotTheNameEndsIt(string document, string name) =>
        Assert.Equal(FaultCode.NamesWouldDiffer, Assert.Throws<FaultException>(() => Anew(document, place: _session.Inside("Audio", name))).Fault.Code);

    [Fact]
    public void WhatIsNotNamedChangesNothing() => Assert.Null(Anew("<s f=\"Audio/Voice 01.wav\"/>"));

    /// <summary>Copies come in and the new version names them; the old one stays, as do the originals, and it all goes back.</summary>
    [Fact]
    public void TheCopiesComeInAndTheNewVersionNamesThem()
    {
        var text = $"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>";
        Anew(Encoding.UTF8.GetBytes(text));
        var journal = new MemoryJournal();
        var plan = PlanCopyIn();
        Assert.Equal("Copy 1 file, 14 kB, from 1 shelf; 1 new version beside the old; no document is changed; originals untouched.", plan.Sentence);
        Assert.False(plan.KeepsPart);
        journal.Apply(plan);
        Assert.Equal(text, File.ReadAllText(Document));
        var inventory = _session.Inventory();
        Assert.Equal(("Breakwater v2" + Extension, true), (Path.GetFileName(inventory.Current!.Path), inventory.CurrentIsStated));
        Assert.Equal([("tide 4.wav", Standing.Inside, FileUse.Named), ("Voice 01.wav", Standing.Inside, FileUse.Named)], inventory.Files.Where(f => f.Use == FileUse.Named).Select(f => (f.Name, f.Standing, f.Use)).OrderByDescending(f => f.Name, StringComparer.Ordinal));
        Assert.Equal(FileUse.OlderOnly, inventory.Files.Single(f => f.Path == Tide).Use);
        Assert.Equal(FaultCode.NewVersionIsNamedAnew, plan.Remarks[0].Code);
        // Once more there is nothing to do; without the choice the document goes on naming the original.
        Assert.Equal(FaultCode.NothingOutside, Assert.Single(PlanCopyIn(older: false).Refusals).Code);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(["Breakwater" + Extension], Directory.GetFiles(_session.Folder, "*" + Extension).Select(Path.GetFileName));
        Assert.False(File.Exists(_session.Inside("Audio", "tide 4.wav")));
        Assert.Equal(Tide, _session.Inventory().Files.Single(f => f.Standing == Standing.Outside).Path);
    }

    /// <summary>One of two documents can be written: the other goes on naming the original, and that is told. Where none can be, nothing is done.</summary>
    [Fact]
    public void WhatCannotBeWrittenIsTold()
    {
        var binary = _session.Inside("Breakwater.skiff");
        File.WriteAllBytes(binary, [.. "skiff\0\0"u8, .. Encoding.UTF8.GetBytes($"{_session.Card}/R & D/tide 4.wav"), 0, .. "Audio/Voice 01.wav\0"u8]);
        Anew($"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>");
        var both = PlanCopyIn();
        Assert.Equal([FaultCode.NewVersionIsNamedAnew, FaultCode.StaysNamedIn], both.Remarks.Select(r => r.Code));
        Assert.Equal((binary, FaultCode.DocumentIsNotText), (both.Remarks[1].Path, Assert.Single(both.Remarks[1].Reasons).Code));
        File.Delete(Document);
        var one = PlanCopyIn();
        Assert.Equal((FaultCode.DocumentIsNotText, 0), (Assert.Single(one.Refusals).Code, one.Steps.Length));
    }

    /// <summary>Beside a document that is read, too, the new version is the one that counts, though its name carries the day of the first.</summary>
    [Fact]
    public void BesideADocumentThatIsReadTheNewVersionCounts()
    {
        _session.Save();
        SessionFixture.Sound(Tide);
        SessionFixture.Sound(_session.Inside("Audio", "Voice 01.wav"), seed: 2);
        var dated = _session.Inside("261014 Breakwater" + Extension);
        File.WriteAllText(dated, $"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>");
        File.SetLastWriteTimeUtc(dated, new DateTime(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc));
        new MemoryJournal().Apply(PlanCopyIn());
        var inventory = _session.Inventory();
        Assert.Equal((_session.DocumentPath, _session.Inside("261014 Breakwater v2" + Extension)), (inventory.Current!.Path, Assert.Single(inventory.Documents, d => d.CountsNow).Path));
        Assert.Equal(FileUse.OlderOnly, inventory.Files.Single(f => f.Path == Tide).Use);
        // Whoever goes on in the older one works in that.
        File.SetLastWriteTimeUtc(dated, DateTime.UtcNow.AddMinutes(1));
        Assert.Equal(dated, Assert.Single(_session.Inventory().Documents, d => d.CountsNow).Path);
    }

    /// <summary>A save between the plan and its doing ends it: the new version would be one of what was saved before.</summary>
    [Fact]
    public void ASaveInBetweenEndsIt()
    {
        Anew($"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"Audio/Voice 01.wav\"/></s>");
        var plan = PlanCopyIn();
        File.AppendAllText(Document, "<!-- saved -->");
        Assert.Equal(FaultCode.SourceChanged, Assert.Single(Assert.Throws<PlanRefusedException>(() => new MemoryJournal().Apply(plan)).Reasons).Code);
        Assert.Equal(["Voice 01.wav"], Directory.GetFiles(_session.Inside("Audio")).Select(Path.GetFileName));
        Assert.Equal(["Breakwater" + Extension], Directory.GetFiles(_session.Folder, "*" + Extension).Select(Path.GetFileName));
    }

    /// <summary>An original that changed is left out by no plan that makes a version which names its copy: all of it is taken back.</summary>
    [Fact]
    public void WhereACopyFailsNothingIsNamed()
    {
        Anew($"<s><f n=\"{_session.Card}/R &amp; D/tide 4.wav\"/><f n=\"{_session.Card}/swell.wav\"/></s>");
        SessionFixture.Sound(Path.Combine(_session.Card, "swell.wav"), seed: 8);
        var plan = PlanCopyIn();
        Assert.Equal(2, plan.Steps.OfType<MakeFileStep>().Count(s => s.IsCopy));
        var journal = new MemoryJournal();
        journal.Moment = () => SessionFixture.Sound(Path.Combine(_session.Card, "swell.wav"), 9600, seed: 9);
        Assert.Equal(PlanOutcome.Failed, journal.TryApply(plan).Outcome);
        Assert.False(File.Exists(_session.Inside("Audio", "tide 4.wav")));
        Assert.Equal(["Breakwater" + Extension], Directory.GetFiles(_session.Folder, "*" + Extension).Select(Path.GetFileName));
        Assert.False(File.Exists(_session.Inside("Audio", "swell.wav")));
    }

    /// <summary>What is found comes in, or stays where it is, and the new version names it there.</summary>
    [Theory]
    [InlineData(RelinkWay.CopyIn, "{session}/Audio/swell.wav")]
    [InlineData(RelinkWay.Repoint, "{library}/new/swell.wav")]
    public void WhatIsFoundIsNamedWhereItIsThen(RelinkWay way, string expected)
    {
        var lost = Path.Combine(_session.Library, "old", "swell.wav");
        var found = SessionFixture.Sound(Path.Combine(_session.Library, "new", "swell.wav"), seed: 8);
        Anew($"<s><f n=\"{lost}\"/><f n=\"Audio/Voice 01.wav\"/></s>");
        var inventory = _session.Inventory();
        var known = new KnownFile(FileState.Of(found).Bytes, FileState.Of(found).ModifiedUtc, null, null, null, null, null);
        Plan Plan(bool newVersions) => RelinkPlanner.Plan(
            new RelinkRequest(
                [new RelinkedSession(_session.SessionId, inventory, [new Relinking(LostFile.Of(inventory.Files.Single(f => f.Path == lost), null, inventory), new FoundFile(found, known, NotedIdentities.None, true, false, null), way)])],
                _session.Shelves, new FreshIdentities())
            { NewVersions = newVersions },
            TestContext.Current.CancellationToken);
        Assert.Equal(FaultCode.NamesAreNotRepointed, Assert.Single(Plan(false).Refusals).Code);
        new MemoryJournal().Apply(Plan(true));
        var written = Filled(expected).Replace("{library}", _session.Library, StringComparison.Ordinal);
        Assert.Equal($"<s><f n=\"{written}\"/><f n=\"Audio/Voice 01.wav\"/></s>", File.ReadAllText(_session.Inside("Breakwater v2" + Extension)));
        Assert.DoesNotContain(_session.Inventory().Files, f => f.Standing == Standing.Missing && f.IsNeededNow);
    }

    private Plan PlanCopyIn(bool older = true) =>
        CopyInPlanner.Plan(new CopyInRequest(_session.SessionId, _session.Inventory(), _session.Shelves, new FreshIdentities()) { NewVersions = true, OlderDocuments = older }, TestContext.Current.CancellationToken);

    private static byte[] Gzip(string text)
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal))
        {
            gzip.Write(Encoding.UTF8.GetBytes(text));
        }
        return packed.ToArray();
    }
}
