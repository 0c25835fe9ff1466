using CsCheck;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Sessions;

public sealed class PortableNameTests
{
    /// <summary>Source of the rules: Microsoft, "Naming Files, Paths, and Namespaces".</summary>
    [Theory]
    [InlineData("bottle: high?.wav", "bottle high.wav")]
    [InlineData("take.", "take")]
    [InlineData("take .wav", "take .wav")]
    [InlineData("CON.wav", "_CON.wav")]
    [InlineData("lpt3", "_lpt3")]
    [InlineData("COM10", "COM10")]
    [InlineData("COM¹", "_COM¹")]
    [InlineData("lpt².wav", "_lpt².wav")]
    [InlineData("Com³.take 1.wav", "_Com³.take 1.wav")]
    [InlineData("COM⁴", "COM⁴")]
    [InlineData("a/b\\c|d", "a-b-c-d")]
    [InlineData("tab\there", "tabhere")]
    [InlineData("???", "untitled")]
    [InlineData(".hidden", ".hidden")]
    [InlineData("Mr. Falk? mix", "Mr. Falk mix")]
    public void NamesGetTheNearestPortableOne(string name, string suggestion) => Assert.Equal(suggestion, PortableName.Suggest(name));

    [Fact]
    public void ASuggestionIsAlwaysPortableAndStaysAsItIs() =>
        Gen.String[0, 300].Sample(name =>
        {
            var suggestion = PortableName.Suggest(name);
            return PortableName.Problems(suggestion).Count == 0 && PortableName.Suggest(suggestion) == suggestion;
        }, iter: 5000);

    [Fact]
    public void LongNamesAreCutBetweenCharactersAndKeepTheirExtension()
    {
        var suggestion = PortableName.Suggest(new string('ö', 200) + ".wav");
        Assert.Equal(new string('ö', 125) + ".wav", suggestion);
    }

    [Fact]
    public void NamesThatDifferByCaseOrNormalFormClash()
    {
        Assert.Equal(PortableName.ClashKey("Ténor.WAV"), PortableName.ClashKey("te\u0301nor.wav"));
        Assert.NotEqual(PortableName.ClashKey("Tenor.wav"), PortableName.ClashKey("Ténor.wav"));
    }

    [Fact]
    public void ANameThatIsTakenGetsTheLeastFreeNumber()
    {
        var names = new FreeNames(["Tide.wav", "tide 2.wav"]);
        Assert.Equal("tide 3.wav", names.Claim("tide.wav"));
        Assert.Equal("tide 4.wav", names.Claim("tide.wav"));
        Assert.Equal("rope.wav", names.Claim("rope.wav"));
    }
}
