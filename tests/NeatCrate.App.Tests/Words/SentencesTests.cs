using NeatCrate.App.Words;

namespace NeatCrate.App.Tests.Words;

public sealed class SentencesTests
{
    public static TheoryData<FaultCode> Codes => [.. Enum.GetValues<FaultCode>()];

    /// <summary>A code without a sentence is found here and not by the user; and what a fault does not tell must not tear a hole.</summary>
    [Theory]
    [MemberData(nameof(Codes))]
    public void EveryCodeHasASentence(FaultCode code)
    {
        var full = Sentences.Of(new Fault(code)
        {
            Path = "/drive/261014 Net Mender/Audio/Cello 01.wav",
            Other = "/card/tide.wav",
            Name = "Low Water",
            Detail = "The pages are wet",
            Count = 2,
            Expected = 3,
            Bytes = 4_000_000,
            Free = 1_000_000,
            Seconds = 3,
            UntilSeconds = 4,
            Names = ["Low Water", "Net Mender"],
            Reasons = [new Fault(FaultCode.SourceGone) { Path = "/card/rope.wav" }],
        });
        Assert.Matches(@"^['\p{Lu}\d].*\S\.?$", full);
        Assert.DoesNotContain("  ", full, StringComparison.Ordinal);
        Assert.DoesNotContain("..", full, StringComparison.Ordinal);
        var bare = Sentences.Of(new Fault(code));
        Assert.True(bare.Length > 10, bare);
    }

    /// <summary>What a fault comes from is told in words, too, and never as the program keeps it.</summary>
    [Theory]
    [InlineData(FaultCode.CannotBeRepaired, "'Cello 01.wav' cannot be repaired. The file ends before its sound.")]
    [InlineData(FaultCode.SourceUnreadable, "'Cello 01.wav' cannot be read. The file ends before its sound.")]
    public void AReasonIsTold(FaultCode code, string expected) =>
        Assert.Equal(expected, Sentences.Of(new Fault(code) { Path = "/drive/Cello 01.wav", Reasons = [new Fault(FaultCode.MediaShorterThanHeader)] }));

    /// <summary>The worked example of the trade: sound of 44.1 kHz that is read at 48 kHz.</summary>
    [Theory]
    [InlineData(44100, 48000, "read at the session's rate it plays 1.47 semitones sharp (8.8 % fast). It is taken as it is.")]
    [InlineData(96000, 48000, "read at the session's rate it plays 12.00 semitones flat (50.0 % slow). It is taken as it is.")]
    public void ARateThatDiffersIsToldAsItIsHeard(int own, int session, string expected) => Assert.EndsWith(
        expected, Sentences.Of(new Fault(FaultCode.RateDiffers) { Name = "drum.wav", Count = own, Expected = session, Reasons = [new Fault(FaultCode.TakenAsItIs)] }), StringComparison.Ordinal);

    [Theory]
    [InlineData("Ogg", "an Ogg file")]
    [InlineData("WAV", "a WAV file")]
    [InlineData("MPEG audio", "an MPEG audio file")]
    public void AKindHasItsArticle(string kind, string expected) =>
        Assert.Contains(expected, Sentences.Of(new Fault(FaultCode.MediaStartsOtherwise) { Name = kind }), StringComparison.Ordinal);

    [Theory]
    [InlineData(":", "':' is not allowed in names on Windows.")]
    [InlineData(": ? *", "':', '?' and '*' are not allowed in names on Windows.")]
    public void WhatWindowsDoesNotTakeIsNamed(string characters, string expected) => Assert.Equal(expected, Sentences.Of(new Fault(FaultCode.NameHoldsRefused) { Name = characters }));

    [Theory]
    [InlineData(1, "'Low Water'")]
    [InlineData(2, "'Low Water' and 'Net Mender'")]
    [InlineData(7, "'Low Water', 'Net Mender', '2', '3', '4' and 2 more")]
    public void ManyNamesAreCounted(int count, string expected)
    {
        string[] names = ["Low Water", "Net Mender", "2", "3", "4", "5", "6"];
        Assert.Equal(
            $"'tide.wav' is needed by {expected}. It would be missing there.",
            Sentences.Of(new Fault(FaultCode.StillUsed) { Path = "/card/tide.wav", Names = [.. names.Take(count)] }));
    }
}
