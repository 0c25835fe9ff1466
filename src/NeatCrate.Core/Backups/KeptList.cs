using System.Collections.Frozen;
using System.Globalization;
using NeatCrate.Core.Json;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Backups;

/// <summary>A kept state as it was when it was kept.</summary>
/// <param name="Identity">Its bytes.</param>
/// <param name="ModifiedUtc">The time of its last change, as the file system gave it back.</param>
internal readonly record struct AsKept(ByteIdentity Identity, DateTime ModifiedUtc);

/// <summary>
/// What stands in a folder of kept states, by name, as it was kept (docs/formats.md, "Document backups"): so that one that was changed, cut
/// or swapped since is not taken for what it was. States that it does not name are taken as they are.
/// </summary>
internal sealed class KeptList
{
    /// <summary>Name of the list in its folder.</summary>
    public const string FileName = ".neat-crate-kept.json";

    private const string Format = "neat-crate kept saves 1";
    private const long MostBytes = 64L * 1024 * 1024;

    private KeptList(FileFacts? facts, FrozenDictionary<string, AsKept> states) => (Facts, States) = (facts, states);

    /// <summary>Of the file as it was read; null where there is none.</summary>
    public FileFacts? Facts { get; }

    /// <summary>The states, by file name.</summary>
    public FrozenDictionary<string, AsKept> States { get; }

    /// <summary>Reads the list of a folder; one that cannot be used names nothing, and is written anew with the next state.</summary>
    /// <param name="folder">Absolute path.</param>
    public static KeptList Of(string folder)
    {
        var path = Path.Combine(folder, FileName);
        if (FileFacts.OfName(path) is not { IsRegular: true } facts)
        {
            return new KeptList(null, FrozenDictionary<string, AsKept>.Empty);
        }
        try
        {
            var root = JsonText.Parse(ReadableFile.ReadAll(path, MostBytes)).Root;
            var states = new Dictionary<string, AsKept>(StringComparer.Ordinal);
            foreach (var state in root["format"]?.AsText == Format ? root["states"]?.Items ?? [] : [])
            {
                if (state["name"]?.AsText is { } name && Read(state) is { } kept)
                {
                    states[name] = kept;
                }
            }
            return new KeptList(facts, states.ToFrozenDictionary(StringComparer.Ordinal));
        }
        catch (Exception e) when (e is JsonTextException || FaultException.Of(e) is not null)
        {
            return new KeptList(facts, FrozenDictionary<string, AsKept>.Empty);
        }
    }

    /// <summary>The list as it is written.</summary>
    public static byte[] ToUtf8(IEnumerable<KeyValuePair<string, AsKept>> states) => JsonText.Of(JsonItem.Map(
        ("format", JsonItem.Of(Format)),
        ("states", JsonItem.List(states.OrderBy(s => s.Key, StringComparer.Ordinal).Select(s => JsonItem.Map(
            ("name", JsonItem.Of(s.Key)),
            ("bytes", JsonItem.Of(s.Value.Identity.Bytes)),
            ("xxh128", JsonItem.Of(s.Value.Identity.Hex)),
            ("modified", JsonItem.Of(s.Value.ModifiedUtc.ToString("O", CultureInfo.InvariantCulture))))))))).ToUtf8();

    private static AsKept? Read(JsonItem state) =>
        state["bytes"]?.Number is { } bytes and >= 0 and < long.MaxValue
        && UInt128.TryParse(state["xxh128"]?.AsText, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var hash)
        && DateTime.TryParse(state["modified"]?.AsText, CultureInfo.InvariantCulture, DateTimeStyles.RoundtripKind, out var modified)
            ? new AsKept(new ByteIdentity((long)bytes, hash), modified)
            : null;
}
