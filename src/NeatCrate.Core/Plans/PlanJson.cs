using System.Text.Json;

namespace NeatCrate.Core.Plans;

/// <summary>Plans as text, for the journal.</summary>
public static class PlanJson
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.General);

    /// <summary>Writes a plan.</summary>
    public static string Write(Plan plan) => JsonSerializer.Serialize(plan, Options);

    /// <summary>Reads a plan.</summary>
    /// <exception cref="JsonException">The text is not a plan.</exception>
    public static Plan Read(string text) => JsonSerializer.Deserialize<Plan>(text, Options) ?? throw new JsonException("The text holds no plan.");
}
