using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using CsCheck;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Documents;

public sealed class SessionDocumentTests
{
    /// <summary>Shapes as the OpenTimelineIO specification gives them ("Serialized Data"): nested stacks, effects, markers, unknown schemas and fields.</summary>
    private const string Rich = """
        {
            "OTIO_SCHEMA": "Timeline.1",
            "metadata": {"another_program": {"mixer": [0.1, 1e-7, 12345678901234567890, 1.10], "emoji": "\u266b"}},
            "name": "Fog Signal",
            "global_start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 29.97, "value": 86400.0},
            "tracks": {
                "OTIO_SCHEMA": "Stack.1", "name": "tracks", "metadata": {}, "effects": [], "markers": [],
                "children": [
                    {
                        "OTIO_SCHEMA": "Track.1", "name": "Cello", "kind": "Audio", "future_field": {"a": null},
                        "children": [
                            {"OTIO_SCHEMA": "Gap.1", "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                                "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24.0, "value": 0.0},
                                "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 24.0, "value": 48.0}}},
                            {
                                "OTIO_SCHEMA": "Stack.1", "name": "nested", "effects": [{"OTIO_SCHEMA": "Effect.1", "effect_name": "Hall", "metadata": {"wet": 0.3}}],
                                "markers": [{"OTIO_SCHEMA": "Marker.2", "name": "here", "color": "RED"}],
                                "children": [
                                    {
                                        "OTIO_SCHEMA": "Clip.2", "name": "deep", "enabled": false,
                                        "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                                            "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 48000.0, "value": 100.0},
                                            "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 48000.0, "value": 50.0}},
                                        "active_media_reference_key": "DEFAULT_MEDIA",
                                        "media_references": {
                                            "DEFAULT_MEDIA": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/Cello%2001.wav", "metadata": {"x": 1}},
                                            "proxy": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "Audio/proxy.wav"}}
                                    }
                                ]
                            },
                            {
                                "OTIO_SCHEMA": "Clip.1", "name": "old", "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "file:///lib/gull.wav"},
                                "effects": [{"OTIO_SCHEMA": "LinearTimeWarp.1", "time_scalar": 2.0}],
                                "source_range": {"OTIO_SCHEMA": "TimeRange.1",
                                    "start_time": {"OTIO_SCHEMA": "RationalTime.1", "rate": 48000.0, "value": 0.0},
                                    "duration": {"OTIO_SCHEMA": "RationalTime.1", "rate": 48000.0, "value": 10.0}}
                            },
                            {"OTIO_SCHEMA": "Clip.2", "name": "gone", "media_references": {"DEFAULT_MEDIA": {"OTIO_SCHEMA": "MissingReference.1"}}},
                            {"OTIO_SCHEMA": "Clip.2", "name": "frames", "media_references": {"DEFAULT_MEDIA": {"OTIO_SCHEMA": "ImageSequenceReference.1", "target_url_base": "frames/"}}}
                        ]
                    }
                ]
            }
        }
        """;

    private static SessionDocument Parse(string json) => SessionDocument.Parse(Encoding.UTF8.GetBytes(json));

    private static JsonNode Json(byte[] utf8) => JsonNode.Parse(utf8)!;

    [Fact]
    public void EverythingThatIsNotUnderstoodComesThroughReadingAndWriting()
    {
        var written = Parse(Rich).ToUtf8();
        Assert.True(JsonNode.DeepEquals(JsonNode.Parse(Rich), Json(written)));
        // Numbers keep their digits, even those that no double can hold.
        var text = Encoding.UTF8.GetString(written);
        Assert.Contains("12345678901234567890", text, StringComparison.Ordinal);
        Assert.Contains("1.10", text, StringComparison.Ordinal);
        Assert.Contains("1e-7", text, StringComparison.Ordinal);
    }

    /// <summary>A second, a day after midnight, in the digits of another program.</summary>
    private const string ADayIn = "{\"start_time\": {\"rate\": 24.00, \"value\": 2073600.0, \"OTIO_SCHEMA\": \"RationalTime.1\"},\r\n\t\"duration\" : {\"rate\":1.0,\"value\":1, \"OTIO_SCHEMA\": \"RationalTime.1\"}, \"OTIO_SCHEMA\": \"TimeRange.1\", \"odd\": 1.50}";

    [Fact]
    public void RePointingChangesThePointerAndNothingElse()
    {
        var document = Parse(Rich);
        Assert.Equal(1, document.Repoint(r => r.TargetUrl == "file:///lib/gull.wav" ? new NewReference("Audio/gull.wav") : null));
        var expected = JsonNode.Parse(Rich.Replace("file:///lib/gull.wav", "Audio/gull.wav", StringComparison.Ordinal));
        Assert.True(JsonNode.DeepEquals(expected, Json(document.ToUtf8())));
    }

    /// <summary>Byte order mark, line ends of Windows, tabs, escapes, NaN and Infinity as Python's json writes them, half a surrogate pair: all but the pointer stays, byte for byte.</summary>
    [Theory]
    [InlineData("\uFEFF{\r\n\t\"OTIO_SCHEMA\": \"Timeline.1\",\r\n\t\"odd\": [NaN, Infinity, -Infinity, 1.50, 1E+2],\r\n\t\"half\": \"\\ud800\",\r\n\t\"escaped\": \"\\u00e9\\/\\u266b\",\r\n\t\"tracks\": {TRACKS}\r\n}\r\n")]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\",\"tracks\":{TRACKS},  \"odd\" : [ 1 , 2 ]}")]
    [InlineData("  {\n\"OTIO_SCHEMA\": \"Timeline.1\",\n\"tracks\": {TRACKS}}\n\n\n")]
    public void EveryByteButThePointerStays(string template)
    {
        const string Tracks = """{"OTIO_SCHEMA": "Clip.2", "media_references": {"a": {"target_url": "\u0041 b.wav", "OTIO_SCHEMA": "ExternalReference.1"}}}""";
        var text = template.Replace("{TRACKS}", Tracks, StringComparison.Ordinal);
        var document = Parse(text);
        Assert.Equal(text, Encoding.UTF8.GetString(document.ToUtf8()));
        Assert.Equal(1, document.Repoint(r => r.TargetUrl == "A b.wav" ? new NewReference("Audio/A b.wav") : null));
        Assert.Equal(text.Replace("\"\\u0041 b.wav\"", "\"Audio/A b.wav\"", StringComparison.Ordinal), Encoding.UTF8.GetString(document.ToUtf8()));
    }

    /// <summary>A range that is given changes where it says something else; digits and times that say the same stay as they are written.</summary>
    [Theory]
    [InlineData(ADayIn, null, 48000L, 96000, "{\"start_time\": {\"rate\": 24.00, \"value\": 2073600.0, \"OTIO_SCHEMA\": \"RationalTime.1\"},\r\n\t\"duration\" : {\"rate\":96000.0,\"value\":48000.0, \"OTIO_SCHEMA\": \"RationalTime.1\"}, \"OTIO_SCHEMA\": \"TimeRange.1\", \"odd\": 1.50}")]
    [InlineData(ADayIn, 4147200000L, 48000L, 48000, null)]
    [InlineData(ADayIn, 4147200480L, 48000L, 48000, "{\"start_time\": {\"rate\": 48000.0, \"value\": 4147200480.0, \"OTIO_SCHEMA\": \"RationalTime.1\"},\r\n\t\"duration\" : {\"rate\":1.0,\"value\":1, \"OTIO_SCHEMA\": \"RationalTime.1\"}, \"OTIO_SCHEMA\": \"TimeRange.1\", \"odd\": 1.50}")]
    [InlineData("null", null, 48000L, 48000, null)]
    [InlineData("null", 10L, 20L, 48000, "{\"OTIO_SCHEMA\": \"TimeRange.1\", \"start_time\": {\"OTIO_SCHEMA\": \"RationalTime.1\", \"rate\": 48000.0, \"value\": 10.0}, \"duration\": {\"OTIO_SCHEMA\": \"RationalTime.1\", \"rate\": 48000.0, \"value\": 20.0}}")]
    public void EveryByteButTheRangeStays(string range, long? start, long length, int rate, string? expected)
    {
        const string Template = """{"OTIO_SCHEMA": "Timeline.1", "tracks": {"OTIO_SCHEMA": "Clip.1", "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "available_range": RANGE, "target_url": "\u0041.wav"}}}""";
        var document = Parse(Template.Replace("RANGE", range, StringComparison.Ordinal));
        var changed = document.Repoint(r => new NewReference(r.TargetUrl, new AvailableRange(start, length, rate)));
        Assert.Equal(Template.Replace("RANGE", expected ?? range, StringComparison.Ordinal), Encoding.UTF8.GetString(document.ToUtf8()));
        Assert.Equal(expected is null ? 0 : 1, changed);
        Assert.Equal(Parse(Encoding.UTF8.GetString(document.ToUtf8())).References, document.References);
    }

    /// <summary>What is added stands in the look of the rest; what was there stays, byte for byte.</summary>
    [Theory]
    [InlineData("{\n\t\"OTIO_SCHEMA\": \"Timeline.1\",\n\t\"name\": \"x\"\n}\n", "\t\"metadata\": {\n\t\t\"neat_crate\": {\n\t\t\t\"listed\": [")]
    [InlineData("{\r\n  \"OTIO_SCHEMA\": \"Timeline.1\",\r\n  \"name\": \"x\"\r\n}", "  \"metadata\": {\r\n    \"neat_crate\": {\r\n      \"listed\": [")]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\",\"name\":\"x\"}", ",\"metadata\":{\"neat_crate\":{\"listed\":[")]
    public void WhatIsAddedHasTheLookOfTheRest(string text, string expected)
    {
        var document = Parse(text);
        ClipBuilder.List(document.Root, "a.wav", 10, 48000);
        var written = Encoding.UTF8.GetString(document.ToUtf8());
        Assert.Contains(expected, written, StringComparison.Ordinal);
        Assert.StartsWith(text[..(text.IndexOf("\"x\"", StringComparison.Ordinal) + 3)], written, StringComparison.Ordinal);
        // Another reader of JSON agrees.
        Assert.Equal("a.wav", Json(document.ToUtf8())["metadata"]!["neat_crate"]!["listed"]![0]!["target_url"]!.GetValue<string>());
    }

    /// <summary>Random changes of a random tree, read by System.Text.Json, are those of the tree.</summary>
    [Fact]
    public void ChangesComeOutAsTheyWereMade() => Gen.Select(Gen.Int[0, 1_000_000], Gen.Int[1, 12]).Sample(
        (seed, changes) =>
        {
            var random = new Random(seed);
            var before = RandomTree(random, 4);
            var text = before.ToJsonString(new JsonSerializerOptions { WriteIndented = random.Next(2) == 0, IndentCharacter = random.Next(2) == 0 ? ' ' : '\t' });
            var document = JsonText.Parse(Encoding.UTF8.GetBytes(text));
            for (var n = 0; n < changes; n++)
            {
                Change(random, before, document.Root);
            }
            Assert.True(JsonNode.DeepEquals(before, Json(document.ToUtf8())), Encoding.UTF8.GetString(document.ToUtf8()));
        }, iter: 300, threads: 1);

    private static JsonObject RandomTree(Random random, int depth)
    {
        JsonNode? Value(int left) => random.Next(left > 0 ? 6 : 4) switch
        {
            0 => JsonValue.Create(random.Next(1000)),
            1 => JsonValue.Create("\"ä\\n" + random.Next(9)),
            2 => JsonValue.Create(random.Next(2) == 0),
            3 => null,
            4 => RandomTree(random, left - 1),
            _ => new JsonArray([.. Enumerable.Range(0, random.Next(4)).Select(_ => Value(left - 1))]),
        };
        return new JsonObject(Enumerable.Range(0, random.Next(5)).Select(n => KeyValuePair.Create($"k{n}", Value(depth - 1))));
    }

    /// <summary>Makes the same change in both trees: a member set, added or removed, an item put in or taken out, somewhere.</summary>
    private static void Change(Random random, JsonNode node, JsonItem item)
    {
        if (node is JsonObject map)
        {
            var inner = map.Where(m => m.Value is JsonObject or JsonArray).ToList();
            if (inner.Count > 0 && random.Next(2) == 0)
            {
                var (name, value) = inner[random.Next(inner.Count)];
                Change(random, value!, item[name]!);
                return;
            }
            var key = $"k{random.Next(7)}";
            if (random.Next(3) == 0)
            {
                map.Remove(key);
                item.Remove(key);
            }
            else
            {
                var number = random.Next(1000);
                map[key] = new JsonObject { ["new"] = number, ["list"] = new JsonArray(1, "x") };
                item.Set(key, JsonItem.Map(("new", JsonItem.Of((long)number)), ("list", JsonItem.List([JsonItem.Of(1L), JsonItem.Of("x")]))));
            }
        }
        else if (node is JsonArray list)
        {
            if (list.Count > 0 && random.Next(2) == 0)
            {
                var at = random.Next(list.Count);
                list.RemoveAt(at);
                item.RemoveAt(at);
            }
            else
            {
                var at = random.Next(list.Count + 1);
                list.Insert(at, (JsonNode)7);
                item.Insert(at, JsonItem.Of(7L));
            }
        }
    }

    [Theory]
    [InlineData("SerializeableCollection.1", "children", "Sequence.1", "Filler.1")]
    [InlineData("SerializableCollection.1", "children", "Track.1", "Gap.1")]
    [InlineData("Stack.1", "children", "Track.1", "Gap.1")]
    [InlineData("Track.1", "children", "Stack.1", "Gap.1")]
    public void OlderNamesAndOtherRootsAreRead(string root, string children, string track, string gap)
    {
        var document = Parse($$$"""
            {"OTIO_SCHEMA": "{{{root}}}", "name": "r", "{{{children}}}": [{"OTIO_SCHEMA": "{{{track}}}", "name": "Cello", "children": [
                {"OTIO_SCHEMA": "{{{gap}}}"}, {"OTIO_SCHEMA": "Clip.1", "media_reference": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "a.wav"}}]}]}
            """);
        Assert.Equal(("a.wav", true), (Assert.Single(document.References).TargetUrl, document.References[0].Placed));
    }

    /// <summary>OpenTimelineIO, "Transition": it begins in_offset before the cut and ends out_offset after it.</summary>
    [Fact]
    public void ATransitionLetsTheOneBeforePlayOnAndTheOneAfterBeginSooner()
    {
        static string Time(int value) => $$"""{"OTIO_SCHEMA": "RationalTime.1", "rate": 48000, "value": {{value}}}""";
        static string Clip(string name) => $$$"""
            {"OTIO_SCHEMA": "Clip.2", "name": "{{{name}}}", "source_range": {"OTIO_SCHEMA": "TimeRange.1", "start_time": {{{Time(1000)}}}, "duration": {{{Time(500)}}}},
             "media_references": {"DEFAULT_MEDIA": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "{{{name}}}.wav"}} }
            """;
        var dissolve = $$"""{"OTIO_SCHEMA": "Transition.1", "in_offset": {{Time(30)}}, "out_offset": {{Time(70)}} }""";
        var document = Parse($$"""{"OTIO_SCHEMA": "Track.1", "name": "t", "children": [{{Clip("a")}}, {{dissolve}}, {{Clip("b")}}, {{Clip("c")}}]}""");
        Assert.Equal(
            [("a.wav", 1000L, 570L), ("b.wav", 970L, 530L), ("c.wav", 1000L, 500L)],
            document.References.Select(r => (r.TargetUrl, SampleRange.Of(r.Source, default, 48000, 10_000))).Select(r => (r.TargetUrl, r.Item2.Start, r.Item2.Length)));
    }

    [Fact]
    public void AReferenceIsFoundUnderWhateverNameItStands() =>
        Assert.Equal("a.wav", Assert.Single(Parse("""{"OTIO_SCHEMA": "Timeline.1", "my_range": {"media_time": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": "a.wav"}}}""").References).TargetUrl);

    /// <summary>A byte that is no UTF-8 makes the document unreadable; half a surrogate pair, or a value that makes no sense, only itself.</summary>
    [Theory]
    [InlineData("\"session_id\": \"\\ud800\"")]
    [InlineData("\"session_id\": 7, \"sample_rate\": 48000, \"tempo\": 1e400, \"bit_depth\": -3, \"time_signature\": [], \"mirror_shelf\": {}")]
    [InlineData("\"folders\": {\"audio\": 5, \"others\": [null, 1, \"\\ud800\"]}, \"listed\": {}, \"sample_rate\": 1e300")]
    [InlineData("\"\\ud800\": 1, \"listed\": [null, {\"OTIO_SCHEMA\": \"ExternalReference.1\", \"target_url\": 5, \"metadata\": {\"neat_crate\": {\"take\": 1e99}}}]")]
    public void NonsenseInADocumentHarmsNothingElse(string own)
    {
        var document = Parse($$$"""{"OTIO_SCHEMA": "Timeline.1", "name": {}, "tracks": null, "global_start_time": {"rate": 1, "value": 1e308}, "metadata": {"neat_crate": { {{{own}}} }} }""");
        Assert.Null(document.SessionId);
        Assert.Equal(("", default(ExactTime), false), (document.Name, document.GlobalStart, document.TakesTracks));
        Assert.True(document.Settings is null or { Tempo: 120, BitDepth: 24, TimeSignature: "4/4", MirrorShelfId: null });
        Assert.All(document.Layout?.All ?? [], f => Assert.DoesNotContain("..", f, StringComparison.Ordinal));
        document.Change(new SessionSettings());
        Assert.Equal(new SessionSettings(), SessionDocument.Parse(document.ToUtf8()).Settings);
    }

    [Fact]
    public void BytesThatAreNoTextAreSaidToBe()
    {
        byte[] bytes = [.. "{\"OTIO_SCHEMA\": \"Timeline.1\",\n\"name\": \""u8, 0xE4, .. "\"}"u8];
        Assert.Equal((FaultCode.DocumentNotText, 2L), Assert.Throws<UnreadableDocumentException>(() => SessionDocument.Parse(bytes)).Fault is var f ? (f.Code, f.Count!.Value) : default);
    }

    [Fact]
    public void ReferencesAreFoundHoweverDeepTheyStand()
    {
        var document = Parse(Rich);
        Assert.Equal(["Audio/Cello%2001.wav", "Audio/proxy.wav", "file:///lib/gull.wav"], document.References.Select(r => r.TargetUrl));
        Assert.All(document.References, r => Assert.True(r.Placed));
        Assert.All(document.References, r => Assert.Equal("Cello", r.Track));
        Assert.Equal(new SampleRange(100, 50), SampleRange.Of(document.References[0].Source, default, 48000, 1000));
        Assert.Equal(1, document.UnfollowedReferences["ImageSequenceReference.1"]);
    }

    /// <summary>A transition beside a nested stack, or an effect that bends the time of that, lets more or less of its clips be heard, and never more than they hold.</summary>
    [Theory]
    [InlineData(true, false)]
    [InlineData(false, true)]
    [InlineData(true, true)]
    public void WhatIsNestedIsUsedAsFarAsItsClipsReach(bool crossed, bool bent)
    {
        const string Time = "{\"OTIO_SCHEMA\":\"RationalTime.1\",\"rate\":48000,\"value\":";
        var clip = $"{{\"OTIO_SCHEMA\":\"Clip.2\",\"source_range\":{{\"OTIO_SCHEMA\":\"TimeRange.1\",\"start_time\":{Time}100}},\"duration\":{Time}50}}}},"
            + "\"media_references\":{\"DEFAULT_MEDIA\":{\"OTIO_SCHEMA\":\"ExternalReference.1\",\"target_url\":\"Audio/a.wav\"}}}";
        var effects = bent ? "{\"OTIO_SCHEMA\":\"LinearTimeWarp.1\",\"time_scalar\":0.5}" : "";
        var beside = crossed ? $",{{\"OTIO_SCHEMA\":\"Transition.1\",\"in_offset\":{Time}10}},\"out_offset\":{Time}20}}}}" : "";
        var document = Parse($"{{\"OTIO_SCHEMA\":\"Timeline.1\",\"tracks\":{{\"OTIO_SCHEMA\":\"Stack.1\",\"children\":[{{\"OTIO_SCHEMA\":\"Track.1\",\"children\":["
            + $"{{\"OTIO_SCHEMA\":\"Stack.1\",\"effects\":[{effects}],\"children\":[{clip}]}}{beside}]}}]}}}}");
        Assert.Equal(new SampleRange(100, 50), SampleRange.Of(Assert.Single(document.References).Source, null, 48000, 1000));
    }

    [Fact]
    public void AClipWhoseTimeIsBentUsesAllOfItsFile() => Assert.Null(Parse(Rich).References[2].Source);

    [Theory]
    [InlineData("{\n  \"OTIO_SCHEMA\": \"Timeline.1\",\n  \"name\": \"x\"\n}\n")]
    [InlineData("{\n    \"OTIO_SCHEMA\": \"Timeline.1\",\n    \"name\": \"x\"\n}")]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\",\"name\":\"x\"}")]
    public void ADocumentKeepsTheLookThatItsOwnProgramGaveIt(string json) =>
        Assert.Equal(json, Encoding.UTF8.GetString(Parse(json).ToUtf8()));

    [Theory]
    [InlineData("", FaultCode.DocumentNotJson, 1, null)]
    [InlineData("{\n\"OTIO_SCHEMA\": \"Timeline.1\",\n\"name\": }", FaultCode.DocumentNotJson, 3, null)]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\"} x", FaultCode.DocumentNotJson, 1, null)]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\",\"a\":01}", FaultCode.DocumentNotJson, 1, null)]
    [InlineData("{\"OTIO_SCHEMA\":\"Timeline.1\",\"a\":\"\\x\"}", FaultCode.DocumentNotJson, 1, null)]
    [InlineData("[]", FaultCode.DocumentWithoutSchema, null, null)]
    [InlineData("{\"name\":\"x\"}", FaultCode.DocumentWithoutSchema, null, null)]
    [InlineData("{\"OTIO_SCHEMA\":\"Marker.2\"}", FaultCode.DocumentNoTimeline, null, "Marker.2")]
    public void WhatCannotBeReadSaysWhereAndWhy(string json, FaultCode code, int? line, string? name)
    {
        var fault = Assert.Throws<UnreadableDocumentException>(() => Parse(json)).Fault;
        Assert.Equal((code, line, name), (fault.Code, (int?)fault.Count, fault.Name));
    }

    /// <summary>RFC 8259, section 4: what a reader makes of a name that stands twice is its own affair; most take the last.</summary>
    [Fact]
    public void OfANameThatStandsTwiceTheLastCounts() => Assert.Equal("b", Parse("{\"OTIO_SCHEMA\":\"Timeline.1\",\"name\":\"a\",\"name\":\"b\"}").Name);

    [Fact]
    public void ADocumentNestedWithoutEndIsRefused() =>
        Assert.Throws<UnreadableDocumentException>(() => Parse(
            "{\"OTIO_SCHEMA\":\"Timeline.1\",\"a\":" + string.Concat(Enumerable.Repeat("[", 5000)) + string.Concat(Enumerable.Repeat("]", 5000)) + "}"));

    [Theory]
    [InlineData("../elsewhere")]
    [InlineData("/etc")]
    [InlineData("a/../../b")]
    [InlineData("")]
    public void AFolderThatLeadsOutOfTheSessionIsNotBelieved(string folder)
    {
        var document = SessionDocument.Create(Guid.NewGuid(), "x", new SessionSettings(), new SessionLayout(Audio: "Takes"), []);
        document.Root["metadata"]![SessionDocument.MetadataKey]!["folders"]!.Set("audio", JsonItem.Of(folder));
        Assert.Equal("Audio", SessionDocument.Parse(document.ToUtf8()).Layout!.Audio);
    }

    [Fact]
    public void ANewDocumentTellsItsSettingsBack()
    {
        var id = Guid.NewGuid();
        var made = SessionDocument.Create(id, "Low Water", new SessionSettings(96000, 32, 66, "3/4"), new SessionLayout(Audio: "Takes", Others: ["Lyrics"]), ["Voice"]);
        ClipBuilder.Place(made.Root, "Voice", new ClipToPlace("v", "Takes/v.wav", 96000, 1000, 10, 20, Gap: 5));
        ClipBuilder.List(made.Root, "Takes/w.wav", 1000, 96000);
        var read = SessionDocument.Parse(made.ToUtf8());
        Assert.Equal((id, "Low Water"), (read.SessionId, read.Name));
        Assert.Equal(new SessionSettings(96000, 32, 66, "3/4"), read.Settings);
        Assert.Equal(("Takes", "Lyrics"), (read.Layout!.Audio, Assert.Single(read.Layout.Others!)));
        Assert.Equal(["Voice"], read.Tracks);
        Assert.Equal([("Takes/w.wav", false), ("Takes/v.wav", true)], read.References.Select(r => (r.TargetUrl, r.Placed)));
        using var parsed = JsonDocument.Parse(made.ToUtf8());
        Assert.Equal("Timeline.1", parsed.RootElement.GetProperty("OTIO_SCHEMA").GetString());
    }
}
