using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Shelves;

public sealed class ShelfWalkTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private string[] Walk(Func<string, bool>? enter = null) =>
        [.. ShelfWalk.Folders(_temp.Path, enter, TestContext.Current.CancellationToken).Select(f => Path.GetRelativePath(_temp.Path, f)).Order(StringComparer.Ordinal)];

    [Fact]
    public void EveryFolderIsVisitedOnceAndLinksAndHiddenOnesAreNot()
    {
        _temp.Folder("a", "b", "c");
        _temp.Folder(".hidden", "x");
        // A link that leads up would go on for ever.
        Directory.CreateSymbolicLink(Path.Combine(_temp.Path, "a", "up"), _temp.Path);
        Directory.CreateSymbolicLink(Path.Combine(_temp.Path, "out"), "/etc");
        Assert.Equal([".", "a", "a/b", "a/b/c"], Walk());
    }

    [Fact]
    public void AFolderThatIsNotEnteredIsStillVisited()
    {
        _temp.Folder("session", "Older documents");
        _temp.Folder("other", "x");
        Assert.Equal([".", "other", "other/x", "session"], Walk(f => Path.GetFileName(f) != "session"));
    }

    [Fact]
    public void TheWalkEndsWhenItIsCancelled()
    {
        _temp.Folder("a", "b");
        using var cancel = new CancellationTokenSource();
        using var walk = ShelfWalk.Folders(_temp.Path, null, cancel.Token).GetEnumerator();
        Assert.True(walk.MoveNext());
        cancel.Cancel();
        Assert.Throws<OperationCanceledException>(() => walk.MoveNext());
    }
}
