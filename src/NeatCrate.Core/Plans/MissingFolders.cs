namespace NeatCrate.Core.Plans;

/// <summary>The folders that a plan has to make before a file can stand in one of them.</summary>
public static class MissingFolders
{
    /// <summary>Steps that make a folder and those above it that are not there, the topmost first.</summary>
    /// <param name="folder">Absolute path of the folder.</param>
    /// <param name="root">A folder above it that is there.</param>
    /// <param name="reason">What it is for.</param>
    /// <param name="like">The folder whose permissions one gets, by its absolute path, so that what was private stays so; null for those of a new folder.</param>
    public static IReadOnlyList<MakeFolderStep> Steps(string folder, string root, string reason, Func<string, string>? like = null)
    {
        var missing = new Stack<MakeFolderStep>();
        for (var at = folder; at != root && !Directory.Exists(at); at = Path.GetDirectoryName(at)!)
        {
            missing.Push(new MakeFolderStep(at, reason) { Mode = like is null ? null : FileFacts.Of(like(at))?.Mode });
        }
        return [.. missing];
    }
}
