using System.Globalization;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>
/// A document that is saved again and again is read only where it changed. What is known of it then has to be what a reading of all of
/// it gives, whatever was edited and wherever an item stands: beside a transition, in a stack that bends time, in what another program
/// wrote.
/// </summary>
public sealed class DocumentReadAgainTests : IDisposable
{
    private const int Edits = 400;

    private static readonly string[] Names = ["gull.wav", "bell.wav", "rope.wav", "tin.wav"];

    private readonly TempFolder _temp = new();
    private readonly Random _random = new(20261019);

    public void Dispose() => _temp.Dispose();

    private static string Time(double value) => string.Create(CultureInfo.InvariantCulture, $$"""{"OTIO_SCHEMA": "RationalTime.1", "value": {{value}}, "rate": 48000}""");

    private static string Range(double start, double duration) => $$"""{"OTIO_SCHEMA": "TimeRange.1", "start_time": {{Time(start)}}, "duration": {{Time(duration)}}}""";

    private string Item() => _random.Next(12) switch
    {
        0 => $$"""{"OTIO_SCHEMA": "Gap.1", "source_range": {{Range(0, _random.Next(1, 5) * 1000)}} }""",
        1 => $$"""{"OTIO_SCHEMA": "Transition.1", "in_offset": {{Time(30)}}, "out_offset": {{Time(70)}} }""",
        2 => $$"""{"OTIO_SCHEMA": "Stack.1", "name": "nest", "effects": [{"OTIO_SCHEMA": "LinearTimeWarp.1", "time_scalar": 2.0}], "children": [{{Clip()}}, {{Clip()}}]}""",
        3 => $$"""{"OTIO_SCHEMA": "Stack.1", "name": "nest", "children": [{"OTIO_SCHEMA": "Track.1", "name": "inner {{_random.Next(3)}}", "children": [{{Clip()}}]}]}""",
        _ => Clip(),
    };

    private string Clip()
    {
        var effect = _random.Next(8) == 0 ? """{"OTIO_SCHEMA": "FreezeFrame.1"}""" : "";
        var own = _random.Next(6) switch
        {
            0 => $$"""{"other": {"children": [{{Plain(0)}}] } }""",
            1 => $$"""{"other": {"reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/{{Names[0]}}"} } }""",
            _ => "{}",
        };
        var reference = _random.Next(10) == 0 ? """{"OTIO_SCHEMA": "GeneratorReference.1"}""" : null;
        return Plain(_random.Next(4) * 100, own, effect, reference);
    }

    /// <summary>Few starts and names, so that the same bytes stand in several places.</summary>
    private string Plain(int start, string metadata = "{}", string effect = "", string? reference = null) => $$"""
        {"OTIO_SCHEMA": "Clip.1", "name": "a clip", "metadata": {{metadata}}, "effects": [{{effect}}], "source_range": {{Range(start, 480)}},
            "media_reference": {{reference ?? $$"""{"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/{{Names[_random.Next(Names.Length)]}}", "available_range": {{Range(0, 4800)}} }"""}} }
        """;

    private static string Document(List<(string Name, List<string> Items)> tracks) =>
        $$"""{"OTIO_SCHEMA": "Timeline.1", "name": "song", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": [{{string.Join(",\n", tracks.Select(t => $$"""{"OTIO_SCHEMA": "Track.1", "name": "{{t.Name}}", "children": [{{string.Join(",\n  ", t.Items)}}]}"""))}}] } }""";

    private void Edit(List<(string Name, List<string> Items)> tracks)
    {
        var items = tracks[_random.Next(tracks.Count)].Items;
        switch (_random.Next(7))
        {
            case 0 when items.Count > 0:
                items.RemoveAt(_random.Next(items.Count));
                break;
            case 1 when items.Count > 30:
                items.RemoveRange(_random.Next(items.Count - 25), 25);
                break;
            case 2 when items.Count > 0:
                items[_random.Next(items.Count)] = Item();
                break;
            case 3 when items.Count > 1:
                var moved = items[0];
                items.RemoveAt(0);
                tracks[_random.Next(tracks.Count)].Items.Add(moved);
                break;
            case 4 when tracks.Count < 5:
                tracks.Insert(_random.Next(tracks.Count), ($"track {_random.Next(100)}", []));
                break;
            case 5:
                var track = _random.Next(tracks.Count);
                tracks[track] = ($"renamed {_random.Next(3)}", tracks[track].Items);
                break;
            default:
                items.InsertRange(_random.Next(items.Count + 1), Enumerable.Range(0, _random.Next(1, 6)).Select(_ => Item()));
                break;
        }
    }

    [Fact]
    public void ItSaysWhatAReadingOfAllOfItGives()
    {
        var folder = _temp.Folder("261019 Fog Signal");
        var path = Path.Combine(folder, "261019 Fog Signal.otio");
        foreach (var name in Names)
        {
            SessionFixture.Sound(Path.Combine(folder, "Audio", name), 4800, seed: name.Length);
        }
        List<(string Name, List<string> Items)> tracks = [("voice", [.. Enumerable.Range(0, 60).Select(_ => Item())])];
        var kept = new KeptInventory(folder, new HeaderCache());
        for (var n = 0; n < Edits; n++)
        {
            Edit(tracks);
            File.WriteAllText(path, Document(tracks));
            File.SetLastWriteTimeUtc(path, DateTime.UnixEpoch.AddDays(20_000).AddSeconds(n));
            var (now, whole) = (Look(kept).Document!, SessionDocument.ReadFile(path).Facts);
            Assert.Equal(whole.References, now.References);
            Assert.Equal(whole.Clips, now.Clips);
            Assert.Equal(whole.Tracks, now.Tracks);
            Assert.Equal(whole.UnfollowedReferences.OrderBy(u => u.Key), now.UnfollowedReferences.OrderBy(u => u.Key));
            if (n % 10 == 0)
            {
                var anew = new KeptInventory(folder, new HeaderCache());
                Look(anew);
                Assert.Equal(Uses(anew), Uses(kept));
                Assert.Equal(anew.Others().Files.Select(f => f.Path).Order(), kept.Others().Files.Select(f => f.Path).Order());
            }
        }
    }

    private static SessionInventory Look(KeptInventory kept) => kept.Look(null, [], LookDepth.Folders, DateTime.UtcNow, TestContext.Current.CancellationToken);

    private static IEnumerable<(string Path, string Uses)> Uses(KeptInventory kept) =>
        kept.ByDocument().Select(u => (u.Key, string.Join(' ', u.Value))).OrderBy(u => u.Key, StringComparer.Ordinal);

    /// <summary>What is no document any more is told as that, however much of it stands as it stood.</summary>
    [Fact]
    public void DamageBetweenWhatIsKnownIsFound()
    {
        var folder = _temp.Folder("261019 Fog Signal");
        var path = Path.Combine(folder, "261019 Fog Signal.otio");
        List<(string Name, List<string> Items)> tracks = [("voice", [.. Enumerable.Range(0, 20).Select(n => Plain(n))])];
        var text = Document(tracks);
        var kept = new KeptInventory(folder, new HeaderCache());
        for (var n = 0; n < 200; n++)
        {
            File.WriteAllText(path, text);
            File.SetLastWriteTimeUtc(path, DateTime.UnixEpoch.AddDays(20_000).AddSeconds(2 * n));
            Assert.Null(Look(kept).Documents[0].Problem);
            var at = _random.Next(text.Length);
            var damaged = _random.Next(3) switch { 0 => text[..at], 1 => text.Remove(at, 1), _ => text.Insert(at, "]") };
            File.WriteAllText(path, damaged);
            File.SetLastWriteTimeUtc(path, DateTime.UnixEpoch.AddDays(20_000).AddSeconds((2 * n) + 1));
            var found = Look(kept).Documents[0];
            Assert.Equal(Problem(damaged), found.Problem?.Code);
        }
    }

    private static FaultCode? Problem(string text)
    {
        try
        {
            SessionDocument.Parse(System.Text.Encoding.UTF8.GetBytes(text));
            return null;
        }
        catch (UnreadableDocumentException e)
        {
            return e.Fault.Code;
        }
    }
}
