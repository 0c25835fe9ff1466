namespace NeatCrate.Core.Sessions;

/// <summary>Gives out names in one folder: portable ones, none of which clashes with another.</summary>
public sealed class FreeNames
{
    private readonly HashSet<string> _taken;

    /// <summary>Starts with the names that are taken.</summary>
    public FreeNames(IEnumerable<string> taken) => _taken = [.. taken.Select(PortableName.ClashKey)];

    /// <summary>Starts with what is in a folder, which need not exist.</summary>
    public static FreeNames In(string folder) =>
        new(Directory.Exists(folder) ? Directory.EnumerateFileSystemEntries(folder).Select(e => Path.GetFileName(e)) : []);

    /// <summary>The wished name as it is, portable or not, with a number behind it where it is taken. From then on it is taken.</summary>
    public string ClaimAsItIs(string wished)
    {
        var name = PortableName.Free(wished, _taken);
        _taken.Add(PortableName.ClashKey(name));
        return name;
    }

    /// <summary>The wished name made portable, with a number behind it where it is taken. From then on it is taken.</summary>
    public string Claim(string wished)
    {
        var name = PortableName.Free(PortableName.Suggest(wished), _taken);
        _taken.Add(PortableName.ClashKey(name));
        return name;
    }
}
