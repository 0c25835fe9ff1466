using System.IO.Compression;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Tests.Purge;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>What states of another program's document name that are not the one on the disk.</summary>
public sealed class NamedFilesTests : IDisposable
{
    private readonly PurgeFixture _purge = new();

    public void Dispose() => _purge.Dispose();

    private string[]? In(byte[] document, params string[] held)
    {
        var inventory = _purge.World().Inventory;
        var named = new NamedFiles(inventory, _purge.Session.Shelves).In(document, held.Length == 0 ? null : held.Select(h => _purge.Session.Inside(h.Split('/'))).ToHashSet());
        return named is null ? null : [.. named.Select(p => Path.GetRelativePath(inventory.Folder, p)).Order(StringComparer.Ordinal)];
    }

    private string[]? In(string document, params string[] held) => In(Encoding.UTF8.GetBytes(document), held);

    /// <summary>A bare name means the one file of that name: what is set aside is none, and a full backup has its own.</summary>
    [Fact]
    public void ABareNameMeansWhatTheSessionHasOrHadThen()
    {
        _purge.Sound("Old/drip.wav", 1);
        _purge.Session.Save();
        Assert.Equal(["Old/drip.wav"], In("\"drip.wav\"")!);
        Assert.Equal(["Loose/drip.wav"], In("\"drip.wav\"", "Loose/drip.wav")!);
        _purge.Apply(_purge.SetAside("Old/drip.wav"));
        Assert.Equal(["Audio/drip.wav"], In("\"drip.wav\"")!);
    }

    /// <summary>Which of several is meant is open: none of them counts.</summary>
    [Fact]
    public void WhatIsOpenCountsForNone()
    {
        _purge.Sound("Old/drip.wav", 1);
        _purge.Sound("New/drip.wav", 2);
        Assert.Empty(In("\"drip.wav\"")!);
    }

    /// <summary>What is cut off, only mentions files, or names none says nothing.</summary>
    [Fact]
    public void WhatIsNotWhollyReadSaysNothing()
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal))
        {
            gzip.Write(Encoding.UTF8.GetBytes(string.Concat(Enumerable.Range(0, 999).Select(n => $"\"Audio/drip {n * 7919}.wav\"\n"))));
        }
        Assert.Equal(999, In(packed.ToArray())!.Length);
        Assert.Null(In(packed.ToArray()[..^200]));
        Assert.Null(In("2026-10-14 20:00 wrote Audio/drip.wav\n2026-10-14 20:01 wrote Audio/drop.wav\n2026-10-14 20:02 wrote Audio/drip.wav\n"));
        Assert.Null(In("nothing"));
    }
}
