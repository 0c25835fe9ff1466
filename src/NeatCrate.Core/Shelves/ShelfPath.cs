namespace NeatCrate.Core.Shelves;

/// <summary>A path was asked for that does not stay on its shelf, or cannot be a path. The message is meant for the user.</summary>
public sealed class PathNotOnShelfException : ArgumentException
{
    /// <summary>Makes the exception with its sentence.</summary>
    public PathNotOnShelfException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public PathNotOnShelfException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public PathNotOnShelfException()
    {
    }
}

/// <summary>Turns a shelf and a relative path into an absolute path that is sure to stay on the shelf.</summary>
public static class ShelfPath
{
    // As many as Linux itself follows before it gives up with ELOOP.
    private const int MaxLinks = 40;

    /// <summary>True when <paramref name="path"/> is <paramref name="folder"/> or lies below it, going by the text alone.</summary>
    public static bool IsWithin(string path, string folder)
    {
        ArgumentNullException.ThrowIfNull(path);
        ArgumentNullException.ThrowIfNull(folder);
        return path.StartsWith(folder, StringComparison.Ordinal)
            && (path.Length == folder.Length || folder.EndsWith('/') || path[folder.Length] == '/');
    }

    /// <summary>Resolves a relative path on a shelf. The path need not exist; symbolic links on the way that lead out are refused.</summary>
    /// <exception cref="PathNotOnShelfException">The path is absolute, climbs out, or leads out by a link.</exception>
    public static string Resolve(Shelf shelf, string relative)
    {
        ArgumentNullException.ThrowIfNull(shelf);
        ArgumentNullException.ThrowIfNull(relative);
        if (relative.Contains('\0', StringComparison.Ordinal) || relative.StartsWith('/'))
        {
            throw new PathNotOnShelfException("A path on a shelf starts at the shelf's top folder.");
        }
        var full = Path.TrimEndingDirectorySeparator(Path.GetFullPath(relative, shelf.Root));
        if (relative.Split('/').Contains("..") || !IsWithin(full, shelf.Root))
        {
            throw new PathNotOnShelfException($"The path leads out of the shelf '{shelf.Name}'.");
        }
        if (!IsWithin(Real(full), Real(shelf.Root)))
        {
            throw new PathNotOnShelfException($"A link in the path leads out of the shelf '{shelf.Name}'.");
        }
        return full;
    }

    /// <summary>
    /// The path with every symbolic link on the way followed. Parts that do not exist are kept as they are, so that the
    /// place of a file that is yet to be made can be told.
    /// </summary>
    /// <exception cref="PathNotOnShelfException">The links go round in a circle.</exception>
    public static string Real(string path)
    {
        var links = 0;
        var waiting = new Stack<string>(Path.GetFullPath(path).Split('/', StringSplitOptions.RemoveEmptyEntries).Reverse());
        var real = "/";
        while (waiting.TryPop(out var part))
        {
            if (part == "..")
            {
                real = Path.GetDirectoryName(real) ?? "/";
                continue;
            }
            var next = Path.Combine(real, part);
            if (new FileInfo(next).LinkTarget is not { } target)
            {
                real = next;
                continue;
            }
            if (++links > MaxLinks)
            {
                throw new PathNotOnShelfException("The links in the path go round in a circle.");
            }
            if (target.StartsWith('/'))
            {
                real = "/";
            }
            foreach (var step in target.Split('/', StringSplitOptions.RemoveEmptyEntries).Where(s => s != ".").Reverse())
            {
                waiting.Push(step);
            }
        }
        return real;
    }
}
