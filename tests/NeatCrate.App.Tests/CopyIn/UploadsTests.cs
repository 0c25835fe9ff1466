using NeatCrate.App.CopyIn;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.CopyIn;

public sealed class UploadsTests : IDisposable
{
    private const string Refusals = "NEAT_CRATE_REFUSALS";

    private static readonly DateTime LongAgo = DateTime.UtcNow.AddDays(-8);

    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly Uploads _uploads;

    public UploadsTests()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        _uploads = new Uploads(_files, TimeProvider.System);
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private string Old(string name, params string[] files)
    {
        var folder = _temp.Folder("data", "uploads", name);
        foreach (var file in files)
        {
            File.WriteAllText(_temp.At("data", "uploads", name, file), "sound");
        }
        Directory.SetLastWriteTimeUtc(folder, LongAgo);
        return folder;
    }

    private static string Id() => $"{Guid.NewGuid():N}";

    [Fact]
    public void OnlyWhatBearsTheIdentityOfAnUploadAndHoldsOneFileIsRemoved()
    {
        var (old, empty) = (Old(Id(), "drum.wav"), Old(Id()));
        var session = Old("261014 Net Mender", "261014 Net Mender.otio");
        var (two, below) = (Old(Id(), "drum.wav", "tide.wav"), Old(Id(), "Audio/tide.wav"));
        Directory.SetLastWriteTimeUtc(below, LongAgo);
        var fresh = _temp.Folder("data", "uploads", Id());
        var elsewhere = _temp.Folder("elsewhere");
        File.WriteAllText(Path.Combine(elsewhere, "tide.wav"), "sound");
        Directory.SetLastWriteTimeUtc(elsewhere, LongAgo);
        var link = Path.Combine(_temp.Path, "data", "uploads", Id());
        Directory.CreateSymbolicLink(link, elsewhere);
        Assert.Empty(_uploads.RemoveOld());
        Assert.Equal([false, false, true, true, true, true, true], new[] { old, empty, session, two, below, fresh, link }.Select(Directory.Exists));
        Assert.True(File.Exists(Path.Combine(elsewhere, "tide.wav")) && File.Exists(Path.Combine(below, "Audio", "tide.wav")) && File.Exists(Path.Combine(two, "drum.wav")));
    }

    /// <summary>What the traced run below sees; by itself it removes all.</summary>
    [Fact]
    public void OldUploadsAreRemoved()
    {
        string[] old = [Old(Id(), "drum.wav"), Old(Id(), "tide.wav")];
        var left = _uploads.RemoveOld();
        Assert.Equal(Environment.GetEnvironmentVariable(Refusals) ?? "0", $"{left.Count}");
        Assert.Equal(old.Where(Directory.Exists), left);
    }

    /// <summary>A folder that the system does not let go (Debian's strace makes it refuse) is told, and keeps neither the others nor the start.</summary>
    [Fact]
    public void WhatCannotBeRemovedIsToldAndTheRestIsRemoved() => Tool.Run(
        "strace", "-f", "-o", _temp.At("trace.txt"), "-e", "trace=rmdir", "-e", "inject=rmdir:error=EBUSY:when=1", "-E", $"{Refusals}=1",
        "dotnet", typeof(UploadsTests).Assembly.Location, "-noColor", "-method", $"{typeof(UploadsTests).FullName}.{nameof(OldUploadsAreRemoved)}");
}
