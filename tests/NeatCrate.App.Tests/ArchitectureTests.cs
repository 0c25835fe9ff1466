using NeatCrate.App.Hosting;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

public sealed class ArchitectureTests
{
    private const string Root = "NeatCrate.App";

    /// <summary>
    /// The folders of the application, each of which knows only those before it: what everybody stands on, what all stations use, the
    /// stations, what the loading bay shows of all of them, and the root that puts them together.
    /// </summary>
    private static readonly string[] Order =
    [
        "Words", "Ground", "Jobs", "Notices", "Shelves", "Sessions", "Listening", "Scans", "Plans",
        "CopyIn", "SetUp", "Record", "Bundles", "Backups", "Purge", "Relink",
        "LoadingBay", "Hosting",
    ];

    /// <summary>Seen in the compiled code: what a method calls and holds, and what a type derives from, stands in its own folder or in one before it.</summary>
    [Fact]
    public void TheFoldersOfTheApplicationDependOnEachOtherInOneDirection()
    {
        var (assembly, backwards) = (typeof(Application).Assembly, new SortedSet<string>(StringComparer.Ordinal));
        foreach (var method in CompiledCode.Methods(assembly))
        {
            foreach (var type in CompiledCode.Known(method))
            {
                if (CompiledCode.FolderOf(type, Root) is { } to && CompiledCode.FolderOf(method.DeclaringType!, Root) is { } from && Array.IndexOf(Order, to) > Array.IndexOf(Order, from))
                {
                    backwards.Add($"{from} knows {to}: {CompiledCode.Outermost(method.DeclaringType!).Name} uses {CompiledCode.Outermost(type).Name}");
                }
            }
        }
        Assert.Empty(backwards);
        Assert.Equal(Order.Order(), assembly.GetTypes().Select(t => CompiledCode.FolderOf(t, Root)).OfType<string>().Distinct().Order());
    }
}
