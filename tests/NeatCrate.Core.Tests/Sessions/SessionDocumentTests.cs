using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Sessions;

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

    [Fact]
    public void RePointingChangesThePointerAndNothingElse()
    {
        var document = Parse(Rich);
        Assert.Equal(1, document.Repoint(url => url == "file:///lib/gull.wav" ? "Audio/gull.wav" : null));
        var expected = JsonNode.Parse(Rich.Replace("file:///lib/gull.wav", "Audio/gull.wav", StringComparison.Ordinal));
        Assert.True(JsonNode.DeepEquals(expected, Json(document.ToUtf8())));
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
