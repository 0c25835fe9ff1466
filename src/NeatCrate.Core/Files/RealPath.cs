using NeatCrate.Core.Faults;

namespace NeatCrate.Core.Files;

/// <summary>Follows links.</summary>
public static class RealPath
{
    // As many as Linux itself follows before it gives up with ELOOP.
    private const int MaxLinks = 40;

    /// <summary>
    /// The path with every symbolic link on the way followed. Parts that do not exist are kept as they are, so that the
    /// place of a file that is yet to be made can be told.
    /// </summary>
    /// <exception cref="FaultException">The links go round in a circle.</exception>
    public static string Of(string path)
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
                throw new FaultException(FaultCode.LinksInCircle, path);
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
