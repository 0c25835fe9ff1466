using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Relink;

/// <summary>A path with what it is compared by, each worked out once: one lost file is compared with hundreds, and one found file with many.</summary>
/// <param name="path">A path, or a pointer as a document writes it.</param>
public sealed class ComparedPath(string path)
{
    private readonly string[] _parts = OtherSystem.Parts(path);
    private string[]? _folded;
    private string? _loose;
    private string? _withoutNumber;
    private string? _extension;

    /// <summary>The name of the file.</summary>
    public string Name => _parts.Length == 0 ? path : _parts[^1];

    /// <summary>The folders above it, the topmost first.</summary>
    public ReadOnlySpan<string> Folders => _parts.AsSpan(0, Math.Max(0, _parts.Length - 1));

    /// <summary>The name as it is compared between systems.</summary>
    public string Loose => _loose ??= LooseName.Of(Name);

    /// <summary>The same without the number that a copy got.</summary>
    public string WithoutNumber => _withoutNumber ??= LooseName.WithoutNumber(Name);

    /// <summary>How many folders right above two files have the same name, however it is written.</summary>
    public int CommonFolders(ComparedPath other)
    {
        ArgumentNullException.ThrowIfNull(other);
        var (one, two) = (Folded, other.Folded);
        var common = 0;
        while (common < one.Length && common < two.Length && one[^(common + 1)] == two[^(common + 1)])
        {
            common++;
        }
        return common;
    }

    /// <summary>How the names of two files are related.</summary>
    public NameLikeness Compare(ComparedPath other)
    {
        ArgumentNullException.ThrowIfNull(other);
        if (string.Equals(Name, other.Name, StringComparison.Ordinal))
        {
            return NameLikeness.Same;
        }
        if (Loose == other.Loose)
        {
            return Extension == other.Extension ? NameLikeness.WrittenOtherwise : NameLikeness.OtherExtension;
        }
        return WithoutNumber == other.Loose || other.WithoutNumber == Loose ? NameLikeness.Numbered : NameLikeness.Other;
    }

    private string Extension => _extension ??= PortableName.ClashKey(Path.GetExtension(Name));

    private string[] Folded => _folded ??= [.. Folders.ToArray().Select(LooseName.OfFolder)];
}
