using NeatCrate.Core.Plans;

namespace NeatCrate.Core.Tests;

public sealed class ArchitectureTests
{
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

    /// <summary>Only the runner's own parts change files: no planner and no reader calls anything that writes, moves or deletes.</summary>
    [Fact]
    public void OnlyTheRunnersPartsChangeFiles()
    {
        string[] changing = ["File.Write", "File.Delete", "File.Move", "File.Copy", "File.Append", "File.Create", "Directory.Delete", "Directory.Move",
            "Directory.Create", "FileMode.Create", "FileMode.Append", "FileMode.OpenOrCreate", "SetLastWriteTime"];
        var offenders = Directory.EnumerateFiles(Path.Combine(Testing.AppProcess.Repository, "src", "NeatCrate.Core"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/Plans/", StringComparison.Ordinal))
            .SelectMany(f => changing.Where(c => File.ReadAllText(f).Contains(c, StringComparison.Ordinal)).Select(c => $"{Path.GetFileName(f)}: {c}"));
        Assert.Empty(offenders);
    }
}
