using CsCheck;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Documents;

public sealed class MediaUrlTests
{
    private const string Folder = "/drive/261014 Net Mender";

    /// <summary>RFC 3986, section 2: what is not unreserved is percent-encoded as UTF-8; RFC 8089: file URLs.</summary>
    [Theory]
    [InlineData("/drive/261014 Net Mender/Audio/Cello 01.wav", "Audio/Cello%2001.wav")]
    [InlineData("/drive/261014 Net Mender/50% #1?.wav", "50%25%20%231%3F.wav")]
    [InlineData("/drive/261014 Net Mender/a:b.wav", "a%3Ab.wav")]
    [InlineData("/lib/Ö.wav", "file:///lib/%C3%96.wav")]
    [InlineData("/drive/261014 Net Mender 2/x.wav", "file:///drive/261014%20Net%20Mender%202/x.wav")]
    public void InsideIsRelativeAndElsewhereIsAFileURL(string path, string url)
    {
        Assert.Equal(url, MediaUrl.From(path, Folder));
        Assert.Equal(path, MediaUrl.Candidates(url, Folder)[0]);
    }

    [Fact]
    public void EveryNameComesBackFromItsURL() =>
        Gen.String[Gen.Char['!', '\u02ff'], 1, 30].Where(n => !n.Contains('/') && n is not "." and not "..").Sample(name =>
            MediaUrl.Candidates(MediaUrl.From($"{Folder}/Audio/{name}", Folder), Folder)[0] == $"{Folder}/Audio/{name}"
            && MediaUrl.Candidates(MediaUrl.From($"/elsewhere/{name}", Folder), Folder)[0] == $"/elsewhere/{name}");

    [Theory]
    [InlineData("https://example.org/a.wav")]
    [InlineData("file://other-host/a.wav")]
    [InlineData("C:\\Takes\\a.wav")]
    [InlineData("")]
    [InlineData("a\0b")]
    public void WhatIsNoPathOfThisMachineHasNoCandidate(string url) => Assert.Empty(MediaUrl.Candidates(url, Folder));

    [Theory]
    [InlineData("Audio/100% dry.wav", "/drive/261014 Net Mender/Audio/100% dry.wav")]
    [InlineData("../Loft/x.wav", "/drive/Loft/x.wav")]
    [InlineData("file://localhost/lib/x.wav", "/lib/x.wav")]
    [InlineData("/lib/a b.wav", "/lib/a b.wav")]
    public void PathsThatOtherProgramsForgotToEncodeAreUnderstood(string url, string path) =>
        Assert.Contains(path, MediaUrl.Candidates(url, Folder));
}
