using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;

namespace NeatCrate.Core.Shelves;

/// <summary>A path was asked for that does not stay on its shelf, or cannot be a path.</summary>
public sealed class PathNotOnShelfException : FaultException
{
    /// <summary>Makes the exception.</summary>
    public PathNotOnShelfException(Fault fault, Exception? inner = null) : base(fault, inner)
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public PathNotOnShelfException()
    {
    }

    /// <summary>Makes the exception with a sentence that the edge has for it.</summary>
    public PathNotOnShelfException(string message) : base(new Fault(FaultCode.RequestSenseless) { Detail = message })
    {
    }

    /// <summary>Makes the exception with what a library says.</summary>
    public PathNotOnShelfException(string message, Exception inner) : base(new Fault(FaultCode.RequestSenseless) { Detail = message }, inner)
    {
    }
}

/// <summary>Turns a shelf and a relative path into an absolute path that is sure to stay on the shelf.</summary>
public static class ShelfPath
{
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
            throw new PathNotOnShelfException(new Fault(FaultCode.PathNotRelative));
        }
        var full = Path.TrimEndingDirectorySeparator(Path.GetFullPath(relative, shelf.Root));
        if (relative.Split('/').Contains("..") || !IsWithin(full, shelf.Root))
        {
            throw new PathNotOnShelfException(new Fault(FaultCode.PathLeavesShelf) { Name = shelf.Name });
        }
        string real;
        try
        {
            real = RealPath.Of(full);
        }
        catch (FaultException e) when (e is not PathNotOnShelfException)
        {
            throw new PathNotOnShelfException(e.Fault, e);
        }
        if (!IsWithin(real, RealPath.Of(shelf.Root)))
        {
            throw new PathNotOnShelfException(new Fault(FaultCode.LinkLeavesShelf) { Name = shelf.Name });
        }
        return full;
    }
}
