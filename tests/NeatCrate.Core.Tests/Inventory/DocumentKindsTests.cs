using System.Collections.Immutable;
using NeatCrate.Core.Backups;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>What somebody says of a kind of file goes before what is guessed of it, at once, and for every session.</summary>
public sealed class DocumentKindsTests : IDisposable
{
    private readonly SessionFixture _session = new();
    private DocumentKinds _said = DocumentKinds.Unsaid;

    public DocumentKindsTests()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"));
        _session.Place(_session.Inside("Audio", "Cello 01.wav")).Save();
    }

    public void Dispose() => _session.Dispose();

    private KeptInventory Kept() => new(_session.Folder, new HeaderCache(), null, () => _said);

    private SessionInventory Look(KeptInventory kept) => kept.Look(null, _session.Shelves, LookDepth.Files, DateTime.UtcNow, TestContext.Current.CancellationToken);

    private static string Use(SessionInventory inventory, string name) => $"{inventory.Files.Single(f => f.Name == name).Use}";

    private void Say(string ending, bool? isDocument) => _said = _said.With(ending, isDocument);

    /// <summary>A file of an unknown kind leaves every use open; said to be none, it leaves none, until it is guessed again.</summary>
    [Fact]
    public void WhatIsSaidToBeNoDocumentLeavesNoUseOpen()
    {
        File.WriteAllText(_session.Inside("notes.loft"), "nothing that looks like a name");
        var kept = Kept();
        var before = Look(kept);
        Assert.Contains(before.Remarks, r => r.Code == FaultCode.MayBeDocuments);
        Assert.Equal("Unknown", Use(before, "Cello 02.wav"));
        Say(".loft", false);
        var now = Look(kept);
        Assert.True(now.Revision > before.Revision);
        Assert.DoesNotContain(now.Remarks, r => r.Code == FaultCode.MayBeDocuments);
        Assert.Equal("Stray", Use(now, "Cello 02.wav"));
        Say(".loft", null);
        Assert.Equal("Unknown", Use(Look(kept), "Cello 02.wav"));
    }

    /// <summary>What it names counts for nothing then, and again when it is guessed again.</summary>
    [Fact]
    public void WhatIsSaidToBeNoDocumentNamesNothing()
    {
        File.WriteAllText(_session.Inside("song.loft"), "<s f=\"Audio/Cello 02.wav\"/><s f=\"Audio/gone.wav\"/>");
        var kept = Kept();
        Assert.Equal("Named", Use(Look(kept), "Cello 02.wav"));
        Say(".loft", false);
        var now = Look(kept);
        Assert.Equal("Stray", Use(now, "Cello 02.wav"));
        Assert.DoesNotContain(now.Files, f => f.Name == "gone.wav");
        Assert.DoesNotContain(now.Documents, d => d.IsNaming);
        Say(".loft", null);
        Assert.Equal(["Cello 01.wav", "Cello 02.wav", "gone.wav"], Look(kept).Files.Select(f => f.Name).Order());
    }

    /// <summary>Text is no document, and a list none either, unless somebody says so.</summary>
    [Fact]
    public void WhatIsSaidToBeADocumentIsOneAlsoWhereItLooksLikeAList()
    {
        File.WriteAllText(_session.Inside("parts.txt"), "Audio/Cello 02.wav\nAudio/Cello 01.wav\nAudio/Cello 02.wav\nAudio/Cello 01.wav\n");
        var kept = Kept();
        Assert.Equal("Stray", Use(Look(kept), "Cello 02.wav"));
        Say(".txt", true);
        Assert.Equal("Named", Use(Look(kept), "Cello 02.wav"));
        Say(".txt", null);
        Assert.Equal("Stray", Use(Look(kept), "Cello 02.wav"));
    }

    /// <summary>It is heard of by whoever only watches, and holds for a file that comes later and for one in another case.</summary>
    [Fact]
    public void TheWatchHearsOfItAndLaterFilesToo()
    {
        File.WriteAllText(_session.Inside("a.loft"), "nothing");
        var kept = Kept();
        Look(kept);
        Assert.False(kept.Notice(DateTime.UtcNow, 0).Any);
        Say(".loft", false);
        Assert.True(kept.Notice(DateTime.UtcNow, 0).Documents);
        Assert.False(kept.Notice(DateTime.UtcNow, 0).Any);
        File.WriteAllText(_session.Inside("b.LOFT"), "nothing");
        Assert.Equal("Stray", Use(Look(kept), "Cello 02.wav"));
    }

    /// <summary>Saves of what is a document are kept, and of what is none they are not.</summary>
    [Fact]
    public void SavesAreKeptOfWhatIsADocument()
    {
        File.WriteAllText(_session.Inside("a.loft"), "x");
        File.WriteAllText(_session.Inside("b.txt"), "x");
        var documents = new SessionDocuments(_session.Folder, () => _said);
        string[] Seen() => [.. documents.Look(DateTime.UtcNow).Select(d => Path.GetExtension(d.Path)).Order(StringComparer.Ordinal)];
        Assert.Equal([".loft", ".otio"], Seen());
        Say(".loft", false);
        Say(".txt", true);
        Assert.Equal([".otio", ".txt"], Seen());
    }

    [Theory]
    [InlineData(".loft", true)]
    [InlineData(".txt", true)]
    [InlineData(".wav", false)]
    [InlineData(".mp4", false)]
    [InlineData(".otio", false)]
    [InlineData(".otioz", false)]
    [InlineData(".sfz", false)]
    [InlineData("loft", false)]
    [InlineData(".", false)]
    [InlineData("", false)]
    [InlineData(".Loft", false)]
    [InlineData(".a.loft", false)]
    [InlineData("./loft", false)]
    public void OfSomeKindsNothingCanBeSaid(string ending, bool can) => Assert.Equal(can, DocumentKinds.CanBeSaid(ending));

    [Fact]
    public void HiddenAndEmptyFilesAreNoneInAnyCase()
    {
        Say(".txt", true);
        Assert.Equal([true, false, false], new[] { ("a.txt", 1L), ("a.txt", 0L), (".a.txt", 1L) }.Select(f => _said.MayBeADocument("/s/" + f.Item1, f.Item2)));
        Assert.Equal(ImmutableSortedDictionary.Create<string, bool>().Add(".txt", true), _said.Said);
    }
}
