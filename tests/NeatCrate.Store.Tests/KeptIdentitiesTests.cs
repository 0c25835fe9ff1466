using NeatCrate.Core.Media;
using NeatCrate.Core.Shelves;
using NeatCrate.Testing;

namespace NeatCrate.Store.Tests;

public sealed class KeptIdentitiesTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly KeptIdentities _identities;

    public KeptIdentitiesTests()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        _identities = new KeptIdentities(_files, TimeProvider.System);
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private FileIdentities Of(string path) => _identities.Identify(path, null, TestContext.Current.CancellationToken);

    private static readonly DateTime LongAgo = new(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc);

    private static string Write(string path, string text, DateTime time)
    {
        File.WriteAllText(path, text);
        File.SetLastWriteTimeUtc(path, time);
        return path;
    }

    [Fact]
    public void AnIdentityIsKeptWhileSizeTimeAndNumberStayAndWorkedOutAnewWhenTheyDoNot()
    {
        var path = Write(_temp.At("a.mid"), "one", LongAgo);
        var first = Of(path);
        Assert.Equal(ByteIdentity.Of("one"u8), first.Bytes);
        // Written over in its place, with its time put back: it is not read again, whatever it holds.
        Assert.Equal(first, Of(Write(path, "two", LongAgo)));
        Assert.Equal(ByteIdentity.Of("two"u8), Of(Write(path, "two", LongAgo.AddSeconds(1))).Bytes);
        Assert.Equal(ByteIdentity.Of("three"u8), Of(Write(path, "three", LongAgo.AddSeconds(1))).Bytes);
        // Another file takes its place, as long as it and of the same time.
        File.Move(Write(_temp.At("b.mid"), "other", LongAgo.AddSeconds(1)), path, overwrite: true);
        Assert.Equal(ByteIdentity.Of("other"u8), Of(path).Bytes);
    }

    /// <summary>Within one step of a drive's clock a file can change twice: what had just changed is not trusted.</summary>
    [Fact]
    public void AnIdentityOfAFileThatHasJustChangedIsNotKept()
    {
        var justNow = DateTime.UtcNow.AddSeconds(-1);
        var path = Write(_temp.At("a.mid"), "one", justNow);
        Of(path);
        Assert.Equal(ByteIdentity.Of("two"u8), Of(Write(path, "two", justNow)).Bytes);
    }

    [Fact]
    public void AShelfThatComesBackAtAnotherPlaceBringsItsIdentitiesAlong()
    {
        var shelf = new ShelfRow { Id = Guid.NewGuid(), Name = "Field card", Kind = ShelfKind.Removable, Root = _temp.Folder("card") };
        using var db = _files.NewDb();
        db.Shelves.Add(shelf);
        db.SaveChanges();
        var first = Of(Write(_temp.At("card", "Takes", "a.mid"), "one", LongAgo));
        Directory.Move(_temp.At("card"), Path.Combine(_temp.Path, "mounted elsewhere"));
        shelf.Root = Path.Combine(_temp.Path, "mounted elsewhere");
        db.SaveChanges();
        var there = Path.Combine(shelf.Root, "Takes", "a.mid");
        // It holds something else under the same size, time and number, which shows that it was not read again.
        Assert.Equal(first, Of(Write(there, "two", LongAgo)));
    }
}
