namespace NeatCrate.Testing;

/// <summary>A folder of a test's own, removed at its end.</summary>
internal sealed class TempFolder : IDisposable
{
    public TempFolder() => Path = Directory.CreateTempSubdirectory("neat-crate-test-").FullName;

    public string Path { get; }

    /// <summary>A path below the folder; the folders on the way are made.</summary>
    public string At(params string[] parts)
    {
        var path = System.IO.Path.Combine([Path, .. parts]);
        Directory.CreateDirectory(System.IO.Path.GetDirectoryName(path)!);
        return path;
    }

    /// <summary>Makes a folder below the folder.</summary>
    public string Folder(params string[] parts) => Directory.CreateDirectory(System.IO.Path.Combine([Path, .. parts])).FullName;

    // By a tool of its own: tests leave names here that .NET cannot open, and so cannot delete.
    public void Dispose() => Tool.Run("rm", "-rf", "--", Path);
}
