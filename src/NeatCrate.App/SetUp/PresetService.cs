using System.ComponentModel.DataAnnotations;
using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.SetUp;
using NeatCrate.Store;

namespace NeatCrate.App.SetUp;

/// <summary>A way of setting up that is used again.</summary>
public sealed record Preset(
    [Required, StringLength(60, MinimumLength = 1)] string Name,
    bool IsDefault,
    [Required] NamePartChoice[] NameParts,
    [Required(AllowEmptyStrings = true), StringLength(3)] string Separator,
    [Required] SettingsChoice Settings,
    [Required] LayoutChoice Layout,
    [Required] string[] Tracks)
{
    /// <summary>Kinds that stay out, at Copy in and in bundles, until it is chosen otherwise in the session.</summary>
    public CopyKind[] LeftOutKinds { get; init; } = [];
}

/// <summary>The presets of this studio. There is always at least one, and always one that new sessions start from.</summary>
public sealed class PresetService(StoredSettings choices)
{
    private const string Key = "presets";

    private readonly Lock _lock = new();

    /// <summary>All presets by name, the default one first.</summary>
    public Preset[] All()
    {
        var presets = choices.Read<Preset[]>(Key);
        return presets is null or [] ? [Standard()] : [.. presets.OrderByDescending(p => p.IsDefault).ThenBy(p => p.Name, StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>Keeps a preset; one of the same name is replaced.</summary>
    public Preset[] Save(Preset preset)
    {
        ArgumentNullException.ThrowIfNull(preset);
        return Change(all => [.. all.Where(p => !IsNamed(p, preset.Name)).Select(p => preset.IsDefault ? p with { IsDefault = false } : p), preset with { Name = preset.Name.Trim(), LeftOutKinds = CopyInChoices.KindsOf(preset.LeftOutKinds) }]);
    }

    /// <summary>Removes a preset. Sessions that were made with it stay as they are.</summary>
    /// <exception cref="NotKnownException">There is none of this name.</exception>
    public Preset[] Remove(string name) => Change(all => [.. Known(all, name).Where(p => !IsNamed(p, name))]);

    /// <summary>Makes a preset the one that new sessions start from.</summary>
    /// <exception cref="NotKnownException">There is none of this name.</exception>
    public Preset[] MakeDefault(string name) => Change(all => [.. Known(all, name).Select(p => p with { IsDefault = IsNamed(p, name) })]);

    private Preset[] Change(Func<Preset[], Preset[]> change)
    {
        lock (_lock)
        {
            var presets = change(All());
            if (presets.Length > 0 && !presets.Any(p => p.IsDefault))
            {
                presets[0] = presets[0] with { IsDefault = true };
            }
            choices.Write(Key, presets);
        }
        return All();
    }

    private static Preset[] Known(Preset[] all, string name) =>
        all.Any(p => IsNamed(p, name)) ? all : throw new NotKnownException($"There is no preset '{name}' (any more).");

    private static bool IsNamed(Preset preset, string name) => preset.Name.Equals(name.Trim(), StringComparison.OrdinalIgnoreCase);

    private static Preset Standard()
    {
        var layout = SessionLayout.Default;
        return new Preset(
            "Plain song",
            true,
            [new NamePartChoice(NamePartKind.Date, "YYMMDD"), new NamePartChoice(NamePartKind.WorkingTitle, "")],
            " ",
            SettingsChoice.From(new SessionSettings()),
            new LayoutChoice(layout.Audio, layout.Bounces, layout.OlderDocuments, layout.WaveformCache, [.. layout.Others ?? []]),
            []);
    }
}
