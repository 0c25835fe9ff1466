using NeatCrate.App.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

public sealed class FolderShowerTests : IDisposable
{
    private readonly TempFolder _temp = new();

    private static CancellationToken Cancel => TestContext.Current.CancellationToken;

    public void Dispose() => _temp.Dispose();

    private string Program(string script)
    {
        var path = _temp.At("shows");
        File.WriteAllText(path, "#!/bin/sh\n" + script + "\n");
        File.SetUnixFileMode(path, UnixFileMode.UserRead | UnixFileMode.UserExecute);
        return path;
    }

    [Fact]
    public async Task TheFolderIsGivenToTheProgramAsItIsNamed()
    {
        var folder = _temp.Folder("Low Water; $(touch x) 'takes'");
        await new FolderShower { Program = Program($"printf %s \"$1\" > '{_temp.At("asked")}'") }.Show(folder, Cancel);
        Assert.Equal(folder, await File.ReadAllTextAsync(_temp.At("asked"), Cancel));
    }

    [Fact]
    public async Task AProgramThatGoesOnShowingIsNotWaitedFor() => await new FolderShower { Program = Program("sleep 30") }.Show(_temp.Path, Cancel);

    [Theory]
    [InlineData("exit 3")]
    [InlineData(null)]
    public async Task WhereNoProgramShowsFoldersThePathIsTold(string? script)
    {
        var program = script is null ? _temp.At("not there") : Program(script);
        var fault = (await Assert.ThrowsAsync<FaultException>(() => new FolderShower { Program = program }.Show(_temp.Path, Cancel))).Fault;
        Assert.Equal((FaultCode.FolderNotShown, _temp.Path), (fault.Code, fault.Path));
    }
}
