namespace NeatCrate.Core.Shelves;

/// <summary>Walks over the folders of a shelf.</summary>
public static class ShelfWalk
{
    /// <summary>
    /// The top folder and every folder below it, each before those in it. Hidden folders and links are left out; folders
    /// that cannot be opened are stepped over.
    /// </summary>
    /// <param name="root">Absolute path of the top folder.</param>
    /// <param name="enter">Asked before going into a folder's own folders; false leaves them out.</param>
    /// <param name="cancel">Stops between two folders.</param>
    public static IEnumerable<string> Folders(string root, Func<string, bool>? enter = null, CancellationToken cancel = default)
    {
        var options = new EnumerationOptions { IgnoreInaccessible = true, AttributesToSkip = FileAttributes.Hidden | FileAttributes.System | FileAttributes.ReparsePoint };
        var waiting = new Stack<string>();
        waiting.Push(root);
        while (waiting.TryPop(out var folder))
        {
            cancel.ThrowIfCancellationRequested();
            yield return folder;
            if (enter?.Invoke(folder) ?? true)
            {
                foreach (var sub in Directory.EnumerateDirectories(folder, "*", options))
                {
                    waiting.Push(sub);
                }
            }
        }
    }
}
