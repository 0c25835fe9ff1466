using System.Text.Json.Nodes;
using NeatCrate.Core.Words;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Words;

/// <summary>Figures in sentences are written as on pages: both are checked by one table.</summary>
public sealed class FiguresTests
{
    private static readonly JsonNode Table = JsonNode.Parse(File.ReadAllText(Path.Combine(AppProcess.Repository, "tests", "Shared", "figures.json")))!;

    private static IEnumerable<(double Value, string Text)> Of(string what) => Table[what]!.AsArray().Select(r => (r![0]!.GetValue<double>(), r[1]!.GetValue<string>()));

    [Fact]
    public void Sizes() => Assert.All(Of("sizes"), s => Assert.Equal(s.Text, ByteText.Of((long)s.Value)));

    [Fact]
    public void Rates() => Assert.All(Of("rates"), r => Assert.Equal(r.Text, RateText.Of((long)r.Value)));

    [Fact]
    public void Counts() => Assert.All(Of("counts"), c => Assert.Equal(c.Text, ByteText.Count((long)c.Value, "file")));

    [Fact]
    public void Durations() => Assert.All(Of("durations"), d => Assert.Equal(d.Text, DurationText.Of(d.Value)));
}
