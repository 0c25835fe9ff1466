using Microsoft.EntityFrameworkCore;
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

    private FileIdentities Of(string path) => _identities.Identify(path, null, null, TestContext.Current.CancellationToken);

    private static readonly DateTime LongAgo = new(2026, 10, 14, 20, 0, 0, DateTimeKind.Utc);

    private static string Write(string path, string text, DateTime time)
    {
        File.WriteAllText(path, text);
        File.SetLastWriteTimeUtc(path, time);
        return path;
    }

    /// <summary>True where it is not read again: what is kept of it is changed by hand, and comes back.</summary>
    private bool IsKept(string path)
    {
        var marked = new string('7', 32);
        using var db = _files.NewDb();
        db.Identities.ExecuteUpdate(i => i.SetProperty(r => r.Hash, marked));
        return Of(path).Bytes.Hex == marked;
    }

    [Fact]
    public void AnIdentityIsKeptWhileTheFileStaysAndWorkedOutAnewWhenItDoesNot()
    {
        var path = Write(_temp.At("a.mid"), "one", LongAgo);
        var first = Of(path);
        Assert.Equal(ByteIdentity.Of("one"u8), first.Bytes);
        Assert.True(IsKept(path));
        // Written over in its place, with its time put back: nobody can put back what the system notes.
        Assert.Equal(ByteIdentity.Of("two"u8), Of(Write(path, "two", LongAgo)).Bytes);
        Assert.Equal(ByteIdentity.Of("six"u8), Of(Write(path, "six", LongAgo.AddSeconds(1))).Bytes);
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
        Assert.False(IsKept(path));
    }

    /// <summary>A recorder's clock that is ahead, or a card that keeps local time: the file is not read again for ever.</summary>
    [Fact]
    public void AnIdentityOfAFileAheadOfTheClockIsKept()
    {
        var path = Write(_temp.At("a.mid"), "one", DateTime.UtcNow.AddHours(5));
        Of(path);
        Assert.True(IsKept(path));
        var contents = new KeptContents(_files, TimeProvider.System);
        var (facts, hash) = (Core.Files.FileFacts.Of(path)!.Value, Core.Vault.ContentHash.Of("one"u8));
        contents.Note(path, facts, hash);
        Assert.Equal(hash, contents.Known(path, facts));
        // Of this moment, on either side of the clock, it may change again unseen.
        var justNow = Write(_temp.At("b.mid"), "two", DateTime.UtcNow.AddSeconds(1));
        Of(justNow);
        Assert.False(IsKept(justNow));
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
        Assert.Equal(first, Of(there));
        Assert.True(IsKept(there));
    }

    /// <summary>A file that changes while its samples are read: what was worked out of two states is remembered of neither.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void SamplesOfAFileThatChangesMeanwhileAreNotRemembered(bool changes)
    {
        var path = _temp.At("a.wav");
        using (var stream = File.Create(path))
        using (var writer = new WavWriter(stream, new PcmFormat(48000, 1, 24)))
        {
            writer.Write([.. Enumerable.Range(0, 480_000)]);
        }
        File.SetLastWriteTimeUtc(path, LongAgo);
        var header = MediaHeaderReader.ReadFile(path)!;
        _identities.Identify(path, header, null, TestContext.Current.CancellationToken);
        var isChanged = false;
        Assert.NotNull(_identities.IdentifySamples(
            path, header,
            () =>
            {
                if (changes && !isChanged)
                {
                    isChanged = true;
                    using var over = new FileStream(path, FileMode.Open, FileAccess.Write, FileShare.ReadWrite);
                    over.Seek(-30, SeekOrigin.End);
                    over.Write([1, 2, 3]);
                }
            },
            TestContext.Current.CancellationToken));
        Assert.Equal(changes, isChanged);
        Assert.Equal(changes, _identities.Recall([(Guid.Empty, path)]).Single().Value.Noted.Samples is null);
    }
}
