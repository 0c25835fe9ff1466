using NeatCrate.Core.Documents;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.SetUp;

/// <summary>Something that is wrong with a name, or will be.</summary>
/// <param name="Fault">What.</param>
/// <param name="Blocks">True when the name cannot be used at all.</param>
public sealed record NameCheck(Fault Fault, bool Blocks);

/// <summary>What was found about a name, and a name near it about which nothing would be found.</summary>
/// <param name="Checks">What was found; empty when all is well.</param>
/// <param name="Fix">The name that would do; null when none is needed, or none is near.</param>
public sealed record CheckedName(IReadOnlyList<NameCheck> Checks, string? Fix);

/// <summary>Checks the name of a new session: usable everywhere, told apart from every other, and not too long for other systems.</summary>
public static class NameChecks
{
    // What usually stands before a session folder on somebody else's machine, and how long a take's own name gets.
    private const int OtherSystemsPrefix = 60;
    private const int TakeName = 48;
    private const int ShortestFix = 8;

    /// <summary>Checks a name in a place.</summary>
    /// <param name="name">The wished name.</param>
    /// <param name="parent">Absolute path of the folder that the session goes into; it need not exist.</param>
    /// <param name="knownSessions">Folders of all known sessions.</param>
    /// <param name="layout">The sub-folders.</param>
    public static CheckedName Check(string name, string parent, IReadOnlyList<string> knownSessions, SessionLayout layout)
    {
        ArgumentNullException.ThrowIfNull(name);
        ArgumentNullException.ThrowIfNull(knownSessions);
        ArgumentNullException.ThrowIfNull(layout);
        string[] neighbours = Directory.Exists(parent) ? [.. Directory.EnumerateFileSystemEntries(parent).Select(e => Path.GetFileName(e))] : [];
        var checks = Unusable(name).Concat(Taken(name, parent, neighbours, knownSessions)).Concat(TooLong(name, layout)).ToList();
        return new CheckedName(checks, checks.Count == 0 ? null : Fix(name, neighbours, knownSessions, layout));
    }

    private static IEnumerable<NameCheck> Unusable(string name)
    {
        var problems = PortableName.Problems(name);
        if (problems.Count == 0 && PortableName.Problems(name + SessionFolder.DocumentExtension).Count > 0)
        {
            problems = [new Fault(FaultCode.NameTooLongForDocument)];
        }
        return problems.Select(p => new NameCheck(p, true));
    }

    private static IEnumerable<NameCheck> Taken(string name, string parent, string[] neighbours, IReadOnlyList<string> knownSessions)
    {
        var key = PortableName.ClashKey(name);
        if (Array.Find(neighbours, n => PortableName.ClashKey(n) == key) is { } clash)
        {
            yield return new NameCheck(clash == name ? new Fault(FaultCode.NameThereAlready) { Name = name } : new Fault(FaultCode.NameClashes) { Name = clash }, true);
        }
        else if (knownSessions.FirstOrDefault(f => PortableName.ClashKey(Path.GetFileName(f)) == key && Path.GetDirectoryName(f) != parent) is { } known)
        {
            yield return new NameCheck(new Fault(FaultCode.SessionOfThisName) { Path = known }, false);
        }
    }

    private static IEnumerable<NameCheck> TooLong(string name, SessionLayout layout)
    {
        if (Longest(name, layout) is var longest && longest > PortableName.MaxPathCharacters)
        {
            yield return new NameCheck(new Fault(FaultCode.PathsTooLong) { Count = longest, Expected = PortableName.MaxPathCharacters }, false);
        }
    }

    private static int Longest(string name, SessionLayout layout) =>
        OtherSystemsPrefix + name.Length + 1 + layout.All.Max(f => f.Length) + 1 + Math.Max(TakeName, name.Length + SessionFolder.DocumentExtension.Length);

    private static string? Fix(string name, string[] neighbours, IReadOnlyList<string> knownSessions, SessionLayout layout)
    {
        var fixedName = PortableName.Suggest(name);
        while (fixedName.Length > ShortestFix && (Longest(fixedName, layout) > PortableName.MaxPathCharacters || PortableName.Problems(fixedName + SessionFolder.DocumentExtension).Count > 0))
        {
            // A word less, or where there is only one, a character less.
            var space = fixedName.LastIndexOf(' ');
            fixedName = PortableName.Suggest(space > ShortestFix ? fixedName[..space] : fixedName[..^1]);
        }
        var taken = neighbours.Concat(knownSessions.Select(f => Path.GetFileName(f))).Select(PortableName.ClashKey).ToHashSet(StringComparer.Ordinal);
        fixedName = PortableName.Free(fixedName, taken);
        return fixedName == name ? null : fixedName;
    }
}
