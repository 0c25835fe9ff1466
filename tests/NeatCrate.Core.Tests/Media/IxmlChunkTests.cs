using System.Text;
using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

public sealed class IxmlChunkTests
{
    [Fact]
    public void WhatIsWrittenIsReadAndIsWellFormedForOthers()
    {
        var ixml = new Ixml("Lamplighters of Orrin Quay", "Net Mender", "3", "pass 2 <&>", [new IxmlTrack(2, "Hurdy-gurdy"), new IxmlTrack(1, "Cello")]);
        var body = IxmlChunk.Write(ixml);
        var read = IxmlChunk.Read([.. body, 0, 0])!;
        Assert.Equal((ixml.Project, ixml.Scene, ixml.Take, ixml.Note), (read.Project, read.Scene, read.Take, read.Note));
        Assert.Equal(ixml.Tracks, read.Tracks);
        using var temp = new TempFolder();
        File.WriteAllBytes(temp.At("chunk.xml"), body);
        // A parser that is not .NET's reads the same: libxml2's xmllint.
        Assert.Equal("Hurdy-gurdy", Tool.Run("xmllint", "--xpath", "string(//TRACK[1]/NAME)", temp.At("chunk.xml")).Trim());
    }

    [Fact]
    public void TracksStandInTheOrderOfTheChannelsInTheFile()
    {
        var read = IxmlChunk.Read("<BWFXML><TRACK_LIST><TRACK><INTERLEAVE_INDEX>2</INTERLEAVE_INDEX><NAME>B</NAME></TRACK><TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX><NAME>A</NAME></TRACK></TRACK_LIST></BWFXML>"u8)!;
        Assert.Equal(["A", "B"], read.Tracks.Select(t => t.Name));
    }

    [Theory]
    [InlineData("")]
    [InlineData("no XML at all")]
    [InlineData("<BWFXML><TAKE>1</BWFXML>")]
    [InlineData("<OTHER/>")]
    [InlineData("<!DOCTYPE b [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;\">]><BWFXML><TAKE>&b;</TAKE></BWFXML>")]
    public void WhatIsNotOfThisKindOrHostileIsNotRead(string body) => Assert.Null(IxmlChunk.Read(Encoding.UTF8.GetBytes(body)));

    /// <summary>Small files whose XML took a reader minutes: told at once, which the test runner's own patience shows.</summary>
    [Theory]
    [InlineData("nested")]
    [InlineData("namespaces")]
    [InlineData("namespaces in UTF-16")]
    [InlineData("elements")]
    [InlineData("attributes")]
    [InlineData("attributes in UTF-16")]
    public void XmlThatIsMadeToCostTimeCostsNone(string kind)
    {
        var text = kind switch
        {
            "nested" => "<BWFXML>" + string.Concat(Enumerable.Repeat("<a>", 40_000)) + string.Concat(Enumerable.Repeat("</a>", 40_000)) + "</BWFXML>",
            "attributes" or "attributes in UTF-16" => "<BWFXML><TAKE " + string.Concat(Enumerable.Range(0, 100_000).Select(n => $"a{n}='' ")) + ">1</TAKE></BWFXML>",
            "elements" => "<BWFXML>" + string.Concat(Enumerable.Repeat("<a/>", 200_000)) + "</BWFXML>",
            _ => "<BWFXML " + string.Concat(Enumerable.Range(0, 20_000).Select(n => $"xmlns:a{n}='u{n}' ")) + "/>",
        };
        Assert.Null(IxmlChunk.Read(kind.Contains("16", StringComparison.Ordinal) ? [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(text)] : Encoding.UTF8.GetBytes(text)));
    }

    /// <summary>What people write is no attribute: a note of many equals signs, and tags that have a few.</summary>
    [Fact]
    public void EqualsSignsInANoteAreNoAttributes()
    {
        var line = new string('=', 2_000);
        var read = IxmlChunk.Read(Encoding.UTF8.GetBytes($"<BWFXML a='1' b='2'><TAKE c='3'>7</TAKE><NOTE>{line}</NOTE></BWFXML>"))!;
        Assert.Equal(("7", line), (read.Take, read.Note));
    }
}
