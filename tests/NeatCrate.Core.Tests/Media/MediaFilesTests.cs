using NeatCrate.Core.Media;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Media;

public sealed class MediaFilesTests
{
    /// <summary>Extensions as the media types of IANA and the manuals of ffmpeg and libsndfile have them.</summary>
    [Theory]
    [InlineData(MediaKind.Audio, "wav wave bwf rf64 w64 aif aiff aifc flac ogg oga opus mp3 mp2 m4a aac wv caf au snd mka")]
    [InlineData(MediaKind.Video, "mov mp4 m4v mkv avi webm mpg mpeg wmv ogv")]
    [InlineData(MediaKind.Midi, "mid midi")]
    [InlineData(MediaKind.Instrument, "sfz sf2 sf3")]
    public void AKindIsKnownByItsExtensionInAnyCase(MediaKind kind, string extensions) =>
        Assert.All(extensions.Split(' '), e => Assert.Equal((kind, kind), (MediaFiles.KindOf($"tide.{e}"), MediaFiles.KindOf($"TIDE.{e.ToUpperInvariant()}"))));

    [Theory]
    [InlineData("wav")]
    [InlineData("aiff")]
    [InlineData("flac")]
    [InlineData("ogg")]
    [InlineData("mp3")]
    [InlineData("m4a")]
    public void AnEmptyFileOfAnyKindIsSaidToBeEmpty(string extension)
    {
        using var temp = new TempFolder();
        File.WriteAllBytes(temp.At($"tide.{extension}"), []);
        Assert.Equal(FaultCode.MediaEmpty, Assert.Throws<UnreadableMediaException>(() => MediaHeaderReader.ReadFile(temp.At($"tide.{extension}"))).Fault.Code);
    }

    [Theory]
    [InlineData("notes.txt")]
    [InlineData("cover.jpg")]
    [InlineData("chart.pdf")]
    [InlineData("wav")]
    [InlineData("261014 Net Mender.otio")]
    public void WhatIsNoMediaHasNoKind(string name) => Assert.Null(MediaFiles.KindOf(name));
}
