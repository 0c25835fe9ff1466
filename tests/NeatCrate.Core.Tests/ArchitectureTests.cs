using System.Reflection;
using System.Runtime.InteropServices;
using NeatCrate.Core.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests;

public sealed class ArchitectureTests
{
    private const string Layer = "NeatCrate.Core.Files";

    /// <summary>What changes files, by type: every method of these names, whatever its parameters.</summary>
    private static readonly Dictionary<Type, string[]> Changing = new()
    {
        [typeof(File)] = ["Write", "Append", "Create", "Delete", "Move", "Copy", "Replace", "Set", "Open", "Encrypt"],
        [typeof(Directory)] = ["Create", "Delete", "Move", "Set"],
        [typeof(FileInfo)] = ["Append", "Create", "Delete", "MoveTo", "CopyTo", "Replace", "Open", "set_"],
        [typeof(DirectoryInfo)] = ["Create", "Delete", "MoveTo", "set_"],
        [typeof(FileSystemInfo)] = ["Create", "Delete", "set_"],
        [typeof(FileStream)] = [".ctor"],
        [typeof(StreamWriter)] = [".ctor"],
        [typeof(RandomAccess)] = ["Write", "SetLength", "FlushToDisk"],
        [typeof(System.IO.Compression.ZipFile)] = [""],
        [typeof(System.IO.Compression.ZipFileExtensions)] = [""],
    };

    /// <summary>The core knows no web, no database and no screen: it stands on the base library and on hashing alone.</summary>
    [Fact]
    public void TheCoreDependsOnNothingAboveIt()
    {
        var references = typeof(Plan).Assembly.GetReferencedAssemblies().Select(a => a.Name!).ToList();
        Assert.NotEmpty(references);
        Assert.DoesNotContain(references, r => r.StartsWith("NeatCrate", StringComparison.Ordinal) || r.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal)
            || r.StartsWith("Microsoft.EntityFrameworkCore", StringComparison.Ordinal) || r.Contains("Sqlite", StringComparison.OrdinalIgnoreCase));
        var standIns = typeof(StandIns.Demo.DemoWorld).Assembly.GetReferencedAssemblies().Select(a => a.Name!);
        Assert.Equal(["NeatCrate.Core"], standIns.Where(r => r.StartsWith("NeatCrate", StringComparison.Ordinal)));
    }

    /// <summary>Looked up in the compiled code, so that no way of writing a call hides it: nothing outside the durable layer opens, writes, moves or deletes a file.</summary>
    [Fact]
    public void OnlyTheDurableLayerOpensAndChangesFiles()
    {
        var calls = Methods().SelectMany(m => CompiledCode.Called(m).Where(IsChanging).Select(c => $"{m.DeclaringType}.{m.Name} calls {c.DeclaringType!.Name}.{c.Name}")).ToList();
        Assert.DoesNotContain(calls, c => !c.StartsWith(Layer, StringComparison.Ordinal));
        // The check finds what it looks for.
        Assert.Contains(calls, c => c.Contains("RandomAccess.Write", StringComparison.Ordinal));
    }

    /// <summary>Calls of the operating system stand in one class.</summary>
    [Fact]
    public void OnlyTheDurableLayerCallsTheSystem()
    {
        var imports = Methods().Where(m => m.GetCustomAttribute<DllImportAttribute>()?.Value == "libc" || (m.Attributes & MethodAttributes.PinvokeImpl) != 0 && Library(m) == "libc").ToList();
        Assert.NotEmpty(imports);
        Assert.Equal([$"{Layer}.SystemCalls"], imports.Select(m => CompiledCode.Outermost(m.DeclaringType!).FullName).Distinct());
    }

    /// <summary>The folders of the core, each of which knows only those before it; the stations at the end do not know each other.</summary>
    private static readonly string[] Order = ["Faults", "Words", "Files", "Json", "Media", "Names", "Sessions", "Documents", "Shelves", "Vault", "Origins", "Plans", "Inventory", "Usage", "Contents", "Printing", "Healing", "Arrivals"];

    private static readonly string[] Stations = ["SetUp", "Record", "CopyIn", "Relink", "Purge", "Backups", "Bundles"];

    /// <summary>Lists show what all of them say of a file.</summary>
    private const string Last = "Listing";

    /// <summary>Seen in the compiled code: what a method calls and holds, and what a type derives from, stands in its own folder or in one before it.</summary>
    [Fact]
    public void TheFoldersOfTheCoreDependOnEachOtherInOneDirection()
    {
        var backwards = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var method in Methods())
        {
            foreach (var type in CompiledCode.Known(method))
            {
                if (FolderOf(type) is { } to && FolderOf(method.DeclaringType!) is { } from && !MayKnow(from, to))
                {
                    backwards.Add($"{from} knows {to}: {CompiledCode.Outermost(method.DeclaringType!).Name} uses {CompiledCode.Outermost(type).Name}");
                }
            }
        }
        Assert.Empty(backwards);
        Assert.Equal(Order.Concat(Stations).Append(Last).Order(), typeof(Plan).Assembly.GetTypes().Select(FolderOf).OfType<string>().Distinct().Order());
    }

    private static bool MayKnow(string from, string to) =>
        from is Last || from == to || (Stations.Contains(from) ? !Stations.Contains(to) : Array.IndexOf(Order, to) is var at && at >= 0 && at < Array.IndexOf(Order, from));

    private static string? FolderOf(Type type) => CompiledCode.FolderOf(type, "NeatCrate.Core");

    /// <summary>A kind of step is found by its attribute alone, so a new one is one new file; each has a name, a verb and a way to be undone or to say that it has none.</summary>
    [Fact]
    public void EveryKindOfStepHasAName()
    {
        var kinds = typeof(PlanStep).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(PlanStep)) && !t.IsAbstract).ToList();
        Assert.Equal(kinds.Count, PlanJson.StepKinds.Count);
        Assert.Equal(
            [
                "delete-file", "make-file", "make-folder", "move-empty-folder", "move-file", "pack-bundle", "pack-bundle-folder", "remove-bundle-folder", "remove-copy", "remove-folder", "remove-own-file", "repoint-document", "set-aside",
                "write-document",
            ],
            PlanJson.StepKinds.Keys.Order(StringComparer.Ordinal));
    }

    private static string? Library(MethodBase method) => method.GetCustomAttributesData().FirstOrDefault(a => a.AttributeType.Name == "DllImportAttribute")?.ConstructorArguments[0].Value as string;

    private static IEnumerable<MethodBase> Methods() => CompiledCode.Methods(typeof(Plan).Assembly);

    private static bool IsChanging(MethodBase method) =>
        method.DeclaringType is { } type && Changing.TryGetValue(type, out var names) && names.Any(n => method.Name.StartsWith(n, StringComparison.Ordinal));
}
