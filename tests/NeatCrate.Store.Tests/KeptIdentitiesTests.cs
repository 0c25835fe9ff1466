using NeatCrate.Core.Media;
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
        _identities = new KeptIdentities(_files);
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private FileIdentities Of(string path) => _identities.Identify(path, null, TestContext.Current.CancellationToken);

    [Fact]
    public void AnIdentityIsKeptWhileSizeAndTimeStayAndWorkedOutAnewWhenTheyDoNot()
    {
        var path = _temp.At("a.mid");
        File.WriteAllText(path, "one");
        var time = File.GetLastWriteTimeUtc(path);
        var first = Of(path);
        Assert.Equal(ByteIdentity.Of("one"u8), first.Bytes);
        // The same size and the same time: it is not read again, whatever it holds.
        File.WriteAllText(path, "two");
        File.SetLastWriteTimeUtc(path, time);
        Assert.Equal(first, Of(path));
        File.SetLastWriteTimeUtc(path, time.AddSeconds(1));
        Assert.Equal(ByteIdentity.Of("two"u8), Of(path).Bytes);
        File.WriteAllText(path, "three");
        File.SetLastWriteTimeUtc(path, time.AddSeconds(1));
        Assert.Equal(ByteIdentity.Of("three"u8), Of(path).Bytes);
    }
}
