using NeatCrate.Core.Record;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Record;

public sealed class TakeNamesTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private string Session => Path.Combine(_temp.Path, "Net Mender");

    private Shelf Mirror => new(Guid.NewGuid(), "Vault", ShelfKind.Vault, Path.Combine(_temp.Path, "vault"));

    private string[] Names(Shelf? mirror, params string[] tracks) =>
        [.. TakeNames.For(tracks, [], Session, "Audio", mirror).Select(t => Path.GetFileName(t.Path))];

    [Fact]
    public void NumbersStartAtOneAndGoPastWhatIsThere()
    {
        File.WriteAllText(_temp.At("Net Mender", "Audio", "cello 01.WAV"), "another system would take the two names for one");
        Assert.Equal(["Cello 02.wav", "Voice 01.wav"], Names(null, "Cello", "Voice"));
    }

    [Fact]
    public void WhatStandsOnTheMirrorIsNotRecordedOverEither()
    {
        File.WriteAllText(Path.Combine(Directory.CreateDirectory(MirrorPlanner.FolderFor(Mirror, Session)).FullName, "Cello 01.wav"), "kept");
        var armed = Assert.Single(TakeNames.For(["Cello"], [], Session, "Audio", Mirror));
        Assert.Equal(("Cello 02.wav", "Cello 02.wav", 2), (Path.GetFileName(armed.Path), Path.GetFileName(armed.MirrorPath), armed.Number));
    }

    [Fact]
    public void TracksWhoseNamesAreAlikeOnOtherSystemsGetNamesApart() =>
        Assert.Equal(["A-B 01.wav", "A-B 02.wav", "Hurdy-gurdy left 01.wav"], Names(null, "A/B", "A:B", "Hurdy-gurdy left"));
}
