using NeatCrate.Core.Files;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Files;

/// <summary>
/// That flushing reaches the system: what a disk keeps after a power cut cannot be seen from inside, since a process that
/// goes on reads from the system's memory. So Debian's strace is asked which calls were made.
/// </summary>
public sealed class FlushTests : IDisposable
{
    private const string FolderOfTheTraced = "NEAT_CRATE_FLUSH_FOLDER";

    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    /// <summary>What is traced; by itself it sees no more than that the bytes are there.</summary>
    [Fact]
    public void AFileAndItsFolderAreFlushed()
    {
        var (files, folder) = (new DurableFiles(), Environment.GetEnvironmentVariable(FolderOfTheTraced) ?? _temp.Folder("flushed"));
        var (temporary, path) = (Path.Combine(folder, "tide.part"), Path.Combine(folder, "tide.wav"));
        using (var file = files.CreateNew(temporary, 4))
        {
            file.Write("RIFF"u8, 0);
            file.Flush();
        }
        files.RenameToFreeName(temporary, path);
        files.FlushFolder(folder);
        Assert.Equal("RIFF"u8, File.ReadAllBytes(path));
    }

    [Fact]
    public void TheSystemIsAskedToFlushTheFileBeforeItHasItsNameAndTheFolderAfter()
    {
        var (folder, log) = (_temp.Folder("flushed"), _temp.At("trace.txt"));
        var tests = typeof(FlushTests).Assembly.Location;
        Tool.Run(
            "strace", "-f", "-y", "-o", log, "-e", "trace=fsync,fdatasync,renameat2", "-E", $"{FolderOfTheTraced}={folder}",
            "dotnet", tests, "-noColor", "-method", $"{typeof(FlushTests).FullName}.{nameof(AFileAndItsFolderAreFlushed)}");
        var calls = File.ReadAllLines(log).Where(l => l.Contains(folder, StringComparison.Ordinal) && !l.Contains("resumed", StringComparison.Ordinal)).ToList();
        Assert.Collection(
            calls,
            c => Assert.Matches($@"(fsync|fdatasync)\(\d+<{folder}/tide\.part>", c),
            c => Assert.Matches($@"renameat2\(.*{folder}/tide\.part.*{folder}/tide\.wav.*RENAME_NOREPLACE", c),
            c => Assert.Matches($@"fsync\(\d+<{folder}>", c));
    }
}
