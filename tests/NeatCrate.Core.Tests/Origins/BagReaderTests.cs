using System.Buffers.Binary;
using NeatCrate.Core.Files;
using NeatCrate.Core.Vault;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Origins;

/// <summary>What is taken out of archives that anybody may have put on a shelf: bags made by general tools (zip, sha512sum), and archives that mean harm.</summary>
public sealed class BagReaderTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private string Bag => _temp.Folder("made", "bag");

    private static IReadOnlyList<BagEntry> Read(string archive) => BagReader.Read(archive, new DurableFiles());

    private string Zipped(string name = "bag.zip")
    {
        var archive = Path.Combine(_temp.Path, name);
        Tool.RunIn(_temp.Folder("made"), "zip", "-q", "-r", archive, "bag");
        return archive;
    }

    private void WriteBag()
    {
        File.WriteAllText(Path.Combine(_temp.Folder("made", "bag", "data", "Audio"), "tide (2).wav"), "tide");
        File.WriteAllText(Path.Combine(Bag, "data", "f\u00F6hn.wav"), "wind");
        Tool.Run("sh", "-c", $"cd '{Bag}' && find data -type f -print0 | xargs -0 sha512sum > manifest-sha512.txt");
    }

    [Theory]
    [InlineData("")]
    [InlineData("s/$/\\r/")]
    [InlineData("1s/^/\\xEF\\xBB\\xBF/")]
    public void ABagOfGeneralToolsIsRead(string rewrite)
    {
        WriteBag();
        if (rewrite.Length > 0)
        {
            Tool.Run("sed", "-i", rewrite, Path.Combine(Bag, "manifest-sha512.txt"));
        }
        var entries = Read(Zipped());
        Assert.Equal(["bag/data/Audio/tide (2).wav", "bag/data/f\u00F6hn.wav"], entries.Select(e => e.Name).Order(StringComparer.Ordinal));
        Assert.All(entries, e => Assert.Equal(ContentHash.OfFile(Path.Combine(_temp.Folder("made"), e.Name), TestContext.Current.CancellationToken), e.Hash));
        Assert.All(entries, e => Assert.Equal(4, e.Bytes));
        Assert.Equal(entries, new BagListing(entries));
    }

    /// <summary>An archive that states that its manifest is small, and would unpack to what fills the memory.</summary>
    [Fact]
    public void NoMoreOfAManifestIsUnpackedThanItStates()
    {
        WriteBag();
        var manifest = Path.Combine(Bag, "manifest-sha512.txt");
        var first = File.ReadAllText(manifest);
        File.AppendAllText(manifest, string.Concat(Enumerable.Repeat("\n", 50_000_000)));
        var archive = Zipped();
        var size = new byte[4];
        BinaryPrimitives.WriteInt32LittleEndian(size, (int)new FileInfo(manifest).Length);
        var bytes = File.ReadAllBytes(archive);
        var patched = 0;
        for (int at; (at = bytes.AsSpan().IndexOf(size)) >= 0; patched++)
        {
            BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(at), first.Length);
        }
        Assert.Equal(2, patched);
        File.WriteAllBytes(archive, bytes);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Equal(2, Read(archive).Count);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 10_000_000);
    }

    [Fact]
    public void AManifestOfOneLineWithoutAnEndIsNone()
    {
        WriteBag();
        File.WriteAllBytes(Path.Combine(Bag, "manifest-sha512.txt"), new byte[100_000_000]);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Empty(Read(Zipped()));
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 10_000_000);
    }

    /// <summary>Whatever bytes stand in a file that is called an archive, looking into it ends.</summary>
    [Fact]
    public void ADamagedArchiveIsLookedIntoWithoutTrouble()
    {
        WriteBag();
        var whole = File.ReadAllBytes(Zipped());
        var (archive, random) = (Path.Combine(_temp.Path, "damaged.zip"), new Random(20261005));
        var read = 0;
        for (var round = 0; round < 3000; round++)
        {
            var damaged = (byte[])whole.Clone();
            for (var flips = random.Next(1, 5); flips > 0; flips--)
            {
                // Mostly in the directory at the end, which all else follows.
                damaged[random.Next(round % 3 == 0 ? 0 : damaged.Length - 400, damaged.Length)] = (byte)random.Next(256);
            }
            File.WriteAllBytes(archive, damaged);
            read += Read(archive).Count > 0 ? 1 : 0;
        }
        // Damage that shows in nothing that is looked at stays unseen until the file is taken out, and is found then.
        Assert.InRange(read, 1, 2999);
    }

    [Fact]
    public void WhatIsNoArchiveHoldsNothing()
    {
        var archive = Path.Combine(_temp.Path, "no archive.zip");
        File.WriteAllText(archive, "PK, and no more");
        Assert.Empty(Read(archive));
        WriteBag();
        var whole = File.ReadAllBytes(Zipped());
        for (var length = 0; length < whole.Length; length++)
        {
            File.WriteAllBytes(archive, whole[..length]);
            Assert.Empty(Read(archive));
        }
        Assert.Empty(Read(Path.Combine(_temp.Path, "not there.zip")));
    }
}
