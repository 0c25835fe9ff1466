using System.Text;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Documents;

/// <summary>What holds for every kind of document that is read: one suite, run on each.</summary>
public sealed class DocumentFormatTests
{
    /// <summary>A document of each kind that points at "Audio/tide 1.wav" and "kick.wav", with things in it that nobody here understands.</summary>
    private static readonly Dictionary<string, (string Name, string Text)> Samples = new()
    {
        ["OpenTimelineIO"] = ("261014 Net Mender.otio", """
            {"OTIO_SCHEMA": "Timeline.1",	"odd": [1.50, "\u00e4",  null], "tracks": {"OTIO_SCHEMA": "Stack.1", "children": [{"OTIO_SCHEMA": "Track.1", "name": "t", "children": [
              {"OTIO_SCHEMA": "Clip.1", "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/tide%201.wav"}},
              {"OTIO_SCHEMA": "Clip.1", "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "kick.wav"}}]}]}}
            """),
        ["SFZ"] = ("organ.sfz", "// sample=never.wav\r\n<control> default_path=Audio\\\r\n<group> ampeg_release=0.4 /* sample=nor this.wav */\n"
            + "<region> key=c4 sample=tide 1.wav lokey=10<region> sample=*sine\n\t<control>default_path=\n<region>sample=kick.wav volume=-3 // end\n"),
    };

    public static TheoryData<string> Formats => [.. DocumentFormats.All.Select(f => f.Name)];

    private static IDocumentFormat Format(string name) => DocumentFormats.All.Single(f => f.Name == name);

    private static (IDocumentFormat Format, byte[] Bytes) Sample(string name) => (Format(name), Encoding.UTF8.GetBytes(Samples[name].Text));

    private static IRepointable Repointable(IDocumentFormat format, byte[] bytes) => Assert.IsAssignableFrom<IRepointable>(format.Read(bytes));

    private static string[] Paths(IDocumentFormat format, IMediaPointers document) => [.. document.References.Select(r => format.Candidates(r.TargetUrl, "/drive/Net Mender")[0])];

    [Theory]
    [MemberData(nameof(Formats))]
    public void ItIsKnownByItsNameInAnyCaseAndNoOtherKindTakesIt(string name)
    {
        var file = Samples[name].Name;
        Assert.Equal(
            [name, name, null, null],
            new[] { file, file.ToUpperInvariant(), "." + file, file + ".txt" }.Select(f => DocumentFormats.Of("/drive/" + f)?.Name));
        Assert.Single(DocumentFormats.All, f => f.Recognises(file));
    }

    [Theory]
    [MemberData(nameof(Formats))]
    public void ItsPointersAreFoundInOrder(string name)
    {
        var (format, bytes) = Sample(name);
        var document = format.Read(bytes);
        Assert.Equal(["/drive/Net Mender/Audio/tide 1.wav", "/drive/Net Mender/kick.wav"], Paths(format, document));
        Assert.False(document.MayPointElsewhere);
    }

    [Theory]
    [MemberData(nameof(Formats))]
    public void WhatIsReadAndWrittenIsTheSameByteForByte(string name)
    {
        var (format, bytes) = Sample(name);
        var document = Repointable(format, bytes);
        Assert.Equal(0, document.Repoint(_ => null));
        Assert.Equal(0, document.Repoint(r => new NewReference(r.TargetUrl)));
        Assert.Equal(bytes, document.ToBytes());
    }

    /// <summary>Pointed away and back again it is the same byte for byte, so nothing but pointers changed.</summary>
    [Theory]
    [MemberData(nameof(Formats))]
    public void RePointingChangesThatPointerAlone(string name)
    {
        var (format, bytes) = Sample(name);
        string To(string path) => format.PointerTo(path, "/drive/Net Mender");
        var first = format.Read(bytes).References[0].TargetUrl;
        var document = Repointable(format, bytes);
        Assert.Equal(1, document.Repoint(r => r.TargetUrl == first ? new NewReference(To("/drive/Net Mender/Audio inside/täde 2.wav")) : null));
        string[] expected = ["/drive/Net Mender/Audio inside/täde 2.wav", "/drive/Net Mender/kick.wav"];
        Assert.Equal(expected, Paths(format, document));
        var again = Repointable(format, document.ToBytes());
        Assert.Equal(expected, Paths(format, again));
        Assert.Equal(1, again.Repoint(r => r == again.References[0] ? new NewReference(To("/drive/Net Mender/Audio/tide 1.wav")) : null));
        Assert.Equal(bytes, again.ToBytes());
    }

    [Theory]
    [MemberData(nameof(Formats))]
    public void HostileBytesAreRefusedOrReadAndNothingElse(string name)
    {
        var (format, bytes) = Sample(name);
        var random = new Random(7);
        for (var n = 0; n < 2000; n++)
        {
            var hostile = bytes.ToArray();
            for (var k = 0; k < 3; k++)
            {
                hostile[random.Next(hostile.Length)] = (byte)random.Next(256);
            }
            try
            {
                var document = Repointable(format, hostile[..random.Next(1, hostile.Length)]);
                _ = document.References.Select(r => format.Candidates(r.TargetUrl, "/drive").Count).Sum();
                _ = document.ToBytes();
            }
            catch (UnreadableDocumentException e)
            {
                Assert.NotEqual(FaultCode.Unexpected, e.Fault.Code);
            }
        }
    }

    [Theory]
    [InlineData("#include \"low.sfz\"\n<region> sample=kick.wav")]
    [InlineData("#define $DIR Audio\n<region> sample=$DIR/kick.wav")]
    public void AnInstrumentThatIsPutTogetherElsewhereSaysSo(string text) => Assert.True(SfzInstrument.Format.Read(Encoding.UTF8.GetBytes(text)).MayPointElsewhere);

    [Theory]
    [InlineData("song.xyz", 10, true)]
    [InlineData("song", 10, true)]
    [InlineData("song.json", 10, true)]
    [InlineData("song.xyz", 0, false)]
    [InlineData("lyrics.TXT", 10, false)]
    [InlineData("chart.pdf", 10, false)]
    [InlineData("tide.wav", 10, false)]
    [InlineData("song.otio", 10, false)]
    [InlineData(".hidden", 10, false)]
    [InlineData("Thumbs.db", 10, false)]
    public void WhatIsNeitherMediaNorHarmlessMayBeADocument(string name, long bytes, bool expected) => Assert.Equal(expected, DocumentFormats.MayBeADocument("/drive/" + name, bytes));
}
