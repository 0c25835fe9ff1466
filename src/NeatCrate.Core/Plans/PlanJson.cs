using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace NeatCrate.Core.Plans;

/// <summary>
/// Plans as text, for the journal (docs/formats.md, "Plan"). Every text says its version; what an older version wrote is
/// brought up to date when it is read.
/// </summary>
public static class PlanJson
{
    /// <summary>The version that is written.</summary>
    public const int Version = 3;

    private const string VersionKey = "Version";
    private const string StepKey = "step";

    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.General)
    {
        Converters = { new JsonStringEnumConverter() },
        AllowOutOfOrderMetadataProperties = true,
        TypeInfoResolver = new DefaultJsonTypeInfoResolver { Modifiers = { AddStepKinds } },
    };

    /// <summary>The kinds of step by their names in the journal.</summary>
    public static IReadOnlyDictionary<string, Type> StepKinds { get; } = typeof(PlanStep).Assembly.GetTypes()
        .Where(t => t.IsSubclassOf(typeof(PlanStep)) && !t.IsAbstract)
        .ToDictionary(t => ((StepKindAttribute?)Attribute.GetCustomAttribute(t, typeof(StepKindAttribute)))?.Name ?? throw new InvalidOperationException($"{t.Name} has no name for the journal."));

    /// <summary>Writes a plan.</summary>
    public static string Write(Plan plan)
    {
        // The version stands first. A plan may have very many files: no tree is made of it.
        var text = JsonSerializer.SerializeToUtf8Bytes(plan, Options);
        var head = string.Create(CultureInfo.InvariantCulture, $"{{\"{VersionKey}\":{Version},");
        return string.Create(head.Length + Encoding.UTF8.GetCharCount(text.AsSpan(1)), (head, text), static (whole, from) =>
        {
            from.head.CopyTo(whole);
            Encoding.UTF8.GetChars(from.text.AsSpan(1), whole[from.head.Length..]);
        });
    }

    /// <summary>Reads a plan.</summary>
    /// <param name="text">What was written.</param>
    /// <param name="kind">Its kind as the journal keeps it beside the text: before version 2 the text has a number in its place, which came to mean something else.</param>
    /// <exception cref="JsonException">The text is no plan, or one of a later version.</exception>
    public static Plan Read(string text, PlanKind? kind = null)
    {
        if (JsonNode.Parse(text) is not JsonObject node)
        {
            throw new JsonException("The text holds no plan.");
        }
        var version = node[VersionKey] is { } given ? given.GetValue<int>() : 1;
        if (version > Version)
        {
            throw new JsonException($"The plan was written by a later version ({version}).");
        }
        if (version == 1)
        {
            FromVersion1(node, kind);
        }
        if (version <= 2)
        {
            FromVersion2(node);
        }
        node.Remove(VersionKey);
        return node.Deserialize<Plan>(Options) ?? throw new JsonException("The text holds no plan.");
    }

    private static void AddStepKinds(JsonTypeInfo type)
    {
        if (type.Type != typeof(PlanStep))
        {
            return;
        }
        type.PolymorphismOptions = new JsonPolymorphismOptions { TypeDiscriminatorPropertyName = StepKey };
        foreach (var (name, kind) in StepKinds)
        {
            type.PolymorphismOptions.DerivedTypes.Add(new JsonDerivedType(kind, name));
        }
    }

    /// <summary>
    /// Version 2 named content of a vault by its path, kept a transform beside what it transforms, and had files and given bytes of a bundle
    /// under names of their own.
    /// </summary>
    private static void FromVersion2(JsonObject node)
    {
        foreach (var step in node["Steps"]!.AsArray().Select(s => s!.AsObject()))
        {
            switch (step[StepKey]!.GetValue<string>())
            {
                case "make-file":
                    var origin = Stored(step["Origin"]!.DeepClone().AsObject());
                    step["Origin"] = step["Transform"] is { } transform ? new JsonObject { ["from"] = "transformed", ["From"] = origin, ["Transform"] = transform.DeepClone() } : origin;
                    step.Remove("Transform");
                    break;
                case "pack-bundle":
                    foreach (var entry in step["Contents"]!["Entries"]!.AsArray().Select(e => e!.AsObject()))
                    {
                        BundleEntry(entry);
                    }
                    break;
            }
        }
    }

    private static JsonObject Stored(JsonObject origin)
    {
        if (origin["from"]!.GetValue<string>() != "backup-content")
        {
            return origin;
        }
        // Three names below the vault's folder: "content", two digits, and the hash.
        var path = origin["Path"]!.GetValue<string>();
        var name = string.Join('/', path.Split('/')[^3..]);
        return new JsonObject
        {
            ["from"] = "vault-content",
            ["Store"] = path[..^(name.Length + 1)],
            ["Name"] = name,
            ["Bytes"] = origin["Expected"]!["Bytes"]!.DeepClone(),
            ["Sha512"] = origin["Sha512"]!.DeepClone(),
            ["Of"] = origin["Name"]!.DeepClone(),
            ["Marks"] = new JsonObject { ["ModifiedUtc"] = origin["ModifiedUtc"]?.DeepClone(), ["Mode"] = origin["Mode"]?.DeepClone() },
        };
    }

    private static void BundleEntry(JsonObject entry)
    {
        entry["Origin"] = entry["Content"] is { } content
            ? new JsonObject { ["from"] = "bytes", ["Content"] = content.DeepClone() }
            : new JsonObject { ["from"] = "file", ["Path"] = entry["Source"]!.DeepClone(), ["Expected"] = entry["Expected"]!.DeepClone() };
        entry["Bytes"] = entry["Content"] is { } given ? given.GetValue<string>() is var text ? Convert.FromBase64String(text).Length : 0 : entry["Expected"]!["Bytes"]!.DeepClone();
        entry["Marks"] = new JsonObject { ["ModifiedUtc"] = entry["Expected"]?["ChangedUtc"]?.DeepClone() };
        foreach (var old in new[] { "Source", "Expected", "Content" })
        {
            entry.Remove(old);
        }
    }

    /// <summary>Version 1 had a kind of step for each way of making a file, and sentences where there are faults now.</summary>
    private static void FromVersion1(JsonObject node, PlanKind? kind)
    {
        node["Kind"] = kind?.ToString() ?? throw new JsonException("The plan does not tell its kind.");
        node["Refusals"] = new JsonArray();
        node.Remove("Bytes");
        foreach (var step in node["Steps"]!.AsArray().Select(s => s!.AsObject()))
        {
            var name = step[StepKey]!.GetValue<string>();
            if (name is "copy-file" or "assemble-file" or "convert-file")
            {
                MakeFile(step, name);
            }
            else if (name == "write-document" && step["Expected"] is null)
            {
                var content = step["Content"]!.GetValue<string>();
                step[StepKey] = "make-file";
                step["Origin"] = new JsonObject { ["from"] = "bytes", ["Content"] = content };
                step["Bytes"] = Convert.FromBase64String(content).Length;
                step.Remove("Content");
                step.Remove("Expected");
            }
        }
    }

    private static void MakeFile(JsonObject step, string name)
    {
        var expected = step["Expected"]!.DeepClone();
        var origin = new JsonObject { ["from"] = name == "assemble-file" ? "ranges" : "file", ["Path"] = step["Source"]!.DeepClone(), ["Expected"] = expected };
        step[StepKey] = "make-file";
        if (name == "assemble-file")
        {
            var pieces = step["Pieces"]!.AsArray();
            origin["Pieces"] = pieces.DeepClone();
            step["Bytes"] = pieces.Sum(p => p!["Length"]!.GetValue<long>());
        }
        else if (name == "copy-file")
        {
            step["Bytes"] = expected["Bytes"]!.DeepClone();
        }
        else
        {
            step["Transform"] = new JsonObject { ["transform"] = "convert-rate", ["SampleRate"] = step["SampleRate"]!.DeepClone() };
        }
        step["Origin"] = origin;
        foreach (var old in new[] { "Source", "Expected", "Pieces", "SampleRate" })
        {
            step.Remove(old);
        }
    }
}
